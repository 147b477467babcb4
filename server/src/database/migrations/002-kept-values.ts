import type { QueryInterface } from 'sequelize'

export const name = '002-kept-values'

/** Values of steps that an account keeps under a name. */
export async function up(q: QueryInterface): Promise<void> {
  await q.sequelize.query(`CREATE TABLE kept_values (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, accountId CHAR(36) CHARACTER SET ascii NOT NULL, step VARCHAR(60) CHARACTER SET ascii NOT NULL,
    version INT NOT NULL, name VARCHAR(60) NOT NULL, params TEXT NOT NULL, createdAt DATETIME(3) NOT NULL,
    UNIQUE (accountId, step, name), FOREIGN KEY (accountId) REFERENCES accounts (id) ON DELETE CASCADE)`)
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('kept_values')
}
