import type { QueryInterface } from 'sequelize'

export const name = '001-start'

/** The first tables. */
export async function up(q: QueryInterface): Promise<void> {
  const run = (sql: string) => q.sequelize.query(sql)
  await run(`CREATE TABLE accounts (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, name VARCHAR(80) NOT NULL, email VARCHAR(254) NOT NULL UNIQUE,
    passwordHash VARCHAR(200) NULL, createdAt DATETIME(3) NOT NULL)`)
  await run(`CREATE TABLE sessions (
    tokenHash CHAR(64) CHARACTER SET ascii NOT NULL PRIMARY KEY, accountId CHAR(36) CHARACTER SET ascii NOT NULL, expiresAt DATETIME(3) NOT NULL,
    INDEX (expiresAt), FOREIGN KEY (accountId) REFERENCES accounts (id) ON DELETE CASCADE)`)
  await run(`CREATE TABLE photos (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, accountId CHAR(36) CHARACTER SET ascii NOT NULL, name VARCHAR(255) NOT NULL,
    asset CHAR(64) CHARACTER SET ascii NOT NULL, width INT NOT NULL, height INT NOT NULL, depth INT NOT NULL, alpha BOOLEAN NOT NULL, bytes INT NOT NULL,
    createdAt DATETIME(3) NOT NULL, deletedAt DATETIME(3) NULL,
    INDEX (accountId, createdAt), INDEX (accountId, asset), FOREIGN KEY (accountId) REFERENCES accounts (id) ON DELETE CASCADE)`)
  await run(`CREATE TABLE artworks (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, accountId CHAR(36) CHARACTER SET ascii NOT NULL, title VARCHAR(200) NOT NULL,
    document LONGTEXT NOT NULL, revision INT NOT NULL DEFAULT 1, width INT NOT NULL, height INT NOT NULL,
    createdAt DATETIME(3) NOT NULL, updatedAt DATETIME(3) NOT NULL, deletedAt DATETIME(3) NULL,
    INDEX (accountId, updatedAt), FOREIGN KEY (accountId) REFERENCES accounts (id) ON DELETE CASCADE)`)
  await run(`CREATE TABLE renders (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, accountId CHAR(36) CHARACTER SET ascii NOT NULL, artworkId CHAR(36) CHARACTER SET ascii NULL,
    title VARCHAR(200) NOT NULL, document LONGTEXT NOT NULL, format VARCHAR(10) NOT NULL, quality INT NOT NULL, ppi INT NULL, longSide INT NULL,
    state VARCHAR(12) NOT NULL, progress FLOAT NOT NULL, width INT NULL, height INT NULL, bytes BIGINT NULL, message TEXT NULL,
    leaseUntil DATETIME(3) NULL, cancelAsked BOOLEAN NOT NULL, createdAt DATETIME(3) NOT NULL, finishedAt DATETIME(3) NULL,
    INDEX (state, createdAt), INDEX (accountId, createdAt), FOREIGN KEY (accountId) REFERENCES accounts (id) ON DELETE CASCADE)`)
}

export async function down(q: QueryInterface): Promise<void> {
  for (const table of ['renders', 'artworks', 'photos', 'sessions', 'accounts']) await q.dropTable(table)
}
