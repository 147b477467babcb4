// Where the tests of the core run. Jest's own environment answers every look at a global (Math, Float32Array) through a proxy, which makes loops over pixels
// many times slower than they are in the program; a context of its own that is not contextified has its globals as any program has.
const vm = require('node:vm')
const { TestEnvironment } = require('jest-environment-node')

module.exports = class extends TestEnvironment {
  constructor(config, context) {
    super(config, context)
    const sandbox = this.global
    const global = vm.createContext(vm.constants.DONT_CONTEXTIFY)
    for (const key of Reflect.ownKeys(sandbox)) {
      const own = Object.getOwnPropertyDescriptor(global, key)
      // as there: what the language has is the context's own
      if (!own) Object.defineProperty(global, key, Object.getOwnPropertyDescriptor(sandbox, key))
    }
    // what Node hands out is made by its own constructors
    for (const key of ['ArrayBuffer', 'Uint8Array']) global[key] = globalThis[key]
    global.global = global
    global.globalThis = global
    global.Error.stackTraceLimit = 100
    this.context = global
    this.global = global
    // mocks and timers are those of this context
    const { moduleMocker, fakeTimersModern } = this
    this.moduleMocker = new moduleMocker.constructor(global)
    this.fakeTimersModern = new fakeTimersModern.constructor({ config: config.projectConfig, global })
  }
}
