import type { QueryInterface } from 'sequelize'

export const name = '003-claims-and-saves'

/** Saves have ids of their own, claims of renders tokens; an account has a photo once. */
export async function up(q: QueryInterface): Promise<void> {
  const run = (sql: string) => q.sequelize.query(sql)
  await run(`CREATE TABLE saves (
    id CHAR(36) CHARACTER SET ascii NOT NULL PRIMARY KEY, artworkId CHAR(36) CHARACTER SET ascii NOT NULL, revision INT NOT NULL, savedAt DATETIME(3) NOT NULL,
    UNIQUE (artworkId, revision), FOREIGN KEY (artworkId) REFERENCES artworks (id) ON DELETE CASCADE)`)
  await run(`ALTER TABLE renders ADD claim CHAR(36) CHARACTER SET ascii NULL, ADD attempts INT NOT NULL DEFAULT 0, ADD startedAt DATETIME(3) NULL`)
  // of several rows of one photo the one that is on the desk stays, else the last; artworks name the file, not the row
  await run(`DELETE p FROM photos p JOIN photos o ON o.accountId = p.accountId AND o.asset = p.asset AND o.id <> p.id
    AND ((o.deletedAt IS NULL, o.createdAt, o.id) > (p.deletedAt IS NULL, p.createdAt, p.id))`)
  await run(`ALTER TABLE photos ADD UNIQUE photo_once (accountId, asset)`)
}

export async function down(q: QueryInterface): Promise<void> {
  const run = (sql: string) => q.sequelize.query(sql)
  await run(`ALTER TABLE photos DROP INDEX photo_once`)
  await run(`ALTER TABLE renders DROP claim, DROP attempts, DROP startedAt`)
  await q.dropTable('saves')
}
