export const STORE = Symbol('store')
/** The pool that decodes photos. */
export const DECODING = Symbol('decoding')
/** The pool that makes thumbnails. */
export const THUMBNAILS = Symbol('thumbnails')
