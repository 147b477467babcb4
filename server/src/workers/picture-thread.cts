// What the pool loads on a thread. The pool asks for it by `require`, and Node 20 ends the whole process when a thread is ended while an ES module is
// required; so this is a plain module, which brings the real one along in a way that can be broken off.
const loaded = import('./picture-worker.ts')
// told to whoever asks
loaded.catch(() => undefined)

export = async (task: Parameters<Awaited<typeof loaded>['default']>[0]): Promise<unknown> => (await loaded).default(task)
