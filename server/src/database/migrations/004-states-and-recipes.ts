import type { QueryInterface } from 'sequelize'

export const name = '004-states-and-recipes'

/** States of artworks that are kept by name, and recipes that accounts make. */
export async function up(q: QueryInterface): Promise<void> {
  await q.sequelize.query(`CREATE TABLE states (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, accountId CHAR(36) CHARACTER SET ascii NOT NULL, artworkId CHAR(36) CHARACTER SET ascii NOT NULL,
    name VARCHAR(60) NOT NULL, document LONGTEXT NOT NULL, createdAt DATETIME(3) NOT NULL,
    UNIQUE (artworkId, name), FOREIGN KEY (accountId) REFERENCES accounts (id) ON DELETE CASCADE, FOREIGN KEY (artworkId) REFERENCES artworks (id) ON DELETE CASCADE)`)
  await q.sequelize.query(`CREATE TABLE own_recipes (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, accountId CHAR(36) CHARACTER SET ascii NOT NULL,
    title VARCHAR(120) NOT NULL, recipe LONGTEXT NOT NULL, createdAt DATETIME(3) NOT NULL,
    UNIQUE (accountId, title), FOREIGN KEY (accountId) REFERENCES accounts (id) ON DELETE CASCADE)`)
}

export async function down(q: QueryInterface): Promise<void> {
  await q.dropTable('states')
  await q.dropTable('own_recipes')
}
