import { QuillError } from '@nimble-quill/core'
import { ConnectionRefusedError, DatabaseError } from 'sequelize'
import { problemFrom } from './problem.filter.ts'

const database = (errno: number, message = 'x') => new DatabaseError(Object.assign(new Error(message), { sql: '', errno }))

test.each([
  ['the database away', new ConnectionRefusedError(new Error('no')), 503, 'database-away'],
  // MariaDB error codes: ER_DISK_FULL 1021, ER_RECORD_FILE_FULL 1114 (MariaDB Knowledge Base, “MariaDB Error Codes”)
  [
    'a connection that breaks under a query',
    new DatabaseError(Object.assign(new Error('socket has unexpectedly been closed'), { sql: '', fatal: true, errno: 45009 })),
    503,
    'database-away',
  ],
  // ER_SERVER_SHUTDOWN (MariaDB Knowledge Base)
  ['a database that is being stopped', database(1053), 503, 'database-away'],
  ['a full disk under the database', database(1021), 507, 'disk-full'],
  ['a full table space', database(1114), 507, 'disk-full'],
  ['the system’s no space left', database(1026, "Error writing file (Errcode: 28 'No space left on device')"), 507, 'disk-full'],
  ['a full disk under the files', Object.assign(new Error('x'), { code: 'ENOSPC' }), 507, 'disk-full'],
  ['a later version', new QuillError('artwork-newer', 'later'), 422, 'artwork-newer'],
])('%s is told with a sentence that says what is safe', (_, error, status, code) => {
  const problem = problemFrom(error)!
  expect(problem.getStatus()).toBe(status)
  expect(problem.problem).toMatchObject({ code, status, type: `urn:nimble-quill:${code}` })
  if (status !== 422) expect(problem.problem.detail).toContain('safe')
})

test('what nobody expected is not explained away', () => {
  expect(problemFrom(new TypeError('undefined is not a function'))).toBeNull()
  expect(problemFrom(database(1054, 'Unknown column'))).toBeNull()
})
