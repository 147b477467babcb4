// What jsdom lacks.
const { TextEncoder, TextDecoder } = require('node:util')
Object.assign(globalThis, { TextEncoder, TextDecoder, structuredClone: globalThis.structuredClone ?? ((v) => JSON.parse(JSON.stringify(v))) })
globalThis.ResizeObserver = class {
  observe() {}
  unobserve() {}
  disconnect() {}
}
window.matchMedia = (query) => ({
  matches: false,
  media: query,
  onchange: null,
  addListener() {},
  removeListener() {},
  addEventListener() {},
  removeEventListener() {},
  dispatchEvent: () => false,
})
if (!globalThis.crypto?.randomUUID) Object.defineProperty(globalThis, 'crypto', { value: require('node:crypto').webcrypto })
// the browser's pointer events: libraries look whether they are there
if (!('onpointerdown' in window)) window.onpointerdown = null
if (!Element.prototype.setPointerCapture) {
  Element.prototype.setPointerCapture = () => {}
  Element.prototype.releasePointerCapture = () => {}
  Element.prototype.hasPointerCapture = () => false
}
