export const STORE = Symbol('store')
export const THREADS = Symbol('threads')
