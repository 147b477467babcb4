import type { RenderFormat } from '@nimble-quill/contracts'
import { DataTypes, Model, type CreationOptional, type InferAttributes, type InferCreationAttributes, type NonAttribute, type Sequelize } from 'sequelize'

export class Account extends Model<InferAttributes<Account>, InferCreationAttributes<Account>> {
  declare id: CreationOptional<string>
  declare name: string
  declare email: string
  /** argon2id; null for the demo studio, which has no password. */
  declare passwordHash: string | null
  declare createdAt: CreationOptional<Date>
}

export class Session extends Model<InferAttributes<Session>, InferCreationAttributes<Session>> {
  /** SHA-256 of the token in the cookie. */
  declare tokenHash: string
  declare accountId: string
  declare expiresAt: Date
  declare account?: NonAttribute<Account>
}

export class Photo extends Model<InferAttributes<Photo>, InferCreationAttributes<Photo>> {
  declare id: CreationOptional<string>
  declare accountId: string
  declare name: string
  declare asset: string
  declare width: number
  declare height: number
  declare depth: number
  declare alpha: boolean
  declare bytes: number
  declare createdAt: CreationOptional<Date>
  declare deletedAt: CreationOptional<Date | null>
}

export class Artwork extends Model<InferAttributes<Artwork>, InferCreationAttributes<Artwork>> {
  declare id: CreationOptional<string>
  declare accountId: string
  declare title: string
  declare document: string
  declare revision: CreationOptional<number>
  declare width: number
  declare height: number
  declare createdAt: CreationOptional<Date>
  declare updatedAt: CreationOptional<Date>
  declare deletedAt: CreationOptional<Date | null>
}

/** A save that was taken, by the id that the page gave it. */
export class Save extends Model<InferAttributes<Save>, InferCreationAttributes<Save>> {
  declare id: string
  declare artworkId: string
  /** The revision it made. */
  declare revision: number
  declare savedAt: Date
}

export class Render extends Model<InferAttributes<Render>, InferCreationAttributes<Render>> {
  declare id: CreationOptional<string>
  declare accountId: string
  declare artworkId: string | null
  declare title: string
  /** The artwork as it was when the render was asked for. */
  declare document: string
  declare format: RenderFormat
  declare quality: number
  declare ppi: number | null
  declare longSide: number | null
  declare state: CreationOptional<'waiting' | 'running' | 'done' | 'failed' | 'cancelled'>
  declare progress: CreationOptional<number>
  declare width: CreationOptional<number | null>
  declare height: CreationOptional<number | null>
  declare bytes: CreationOptional<number | null>
  declare message: CreationOptional<string | null>
  declare leaseUntil: CreationOptional<Date | null>
  /** The token of who works on it, or did: every write of theirs must show it, and it is in the name of their file. */
  declare claim: CreationOptional<string | null>
  /** How often it was begun. */
  declare attempts: CreationOptional<number>
  /** When it was begun last. */
  declare startedAt: CreationOptional<Date | null>
  declare cancelAsked: CreationOptional<boolean>
  declare createdAt: CreationOptional<Date>
  declare finishedAt: CreationOptional<Date | null>
}

export class KeptValues extends Model<InferAttributes<KeptValues>, InferCreationAttributes<KeptValues>> {
  declare id: CreationOptional<string>
  declare accountId: string
  declare step: string
  declare version: number
  declare name: string
  declare params: string
  declare createdAt: CreationOptional<Date>
}

/** A state of an artwork kept by name. */
export class States extends Model<InferAttributes<States>, InferCreationAttributes<States>> {
  declare id: CreationOptional<string>
  declare accountId: string
  declare artworkId: string
  declare name: string
  declare document: string
  declare createdAt: CreationOptional<Date>
}

/** A recipe that an account made. */
export class OwnRecipes extends Model<InferAttributes<OwnRecipes>, InferCreationAttributes<OwnRecipes>> {
  declare id: CreationOptional<string>
  declare accountId: string
  declare title: string
  declare recipe: string
  declare createdAt: CreationOptional<Date>
}

const id = { type: DataTypes.UUID, primaryKey: true, defaultValue: DataTypes.UUIDV4 }
/** Fresh objects each time: Sequelize writes the field's name into them. */
const owner = () => ({ type: DataTypes.UUID, allowNull: false })
const created = () => ({ type: DataTypes.DATE(3), allowNull: false, defaultValue: DataTypes.NOW })

/** Binds the models to a connection. Tables are made by migrations only. */
export function defineModels(sequelize: Sequelize): void {
  const common = { sequelize, timestamps: false }
  Account.init(
    { id, name: DataTypes.STRING(80), email: DataTypes.STRING(254), passwordHash: { type: DataTypes.STRING(200), allowNull: true }, createdAt: created() },
    { ...common, tableName: 'accounts' },
  )
  Session.init(
    { tokenHash: { type: DataTypes.CHAR(64), primaryKey: true }, accountId: owner(), expiresAt: DataTypes.DATE(3) },
    { ...common, tableName: 'sessions' },
  )
  Photo.init(
    {
      id,
      accountId: owner(),
      name: DataTypes.STRING(255),
      asset: DataTypes.CHAR(64),
      width: DataTypes.INTEGER,
      height: DataTypes.INTEGER,
      depth: DataTypes.INTEGER,
      alpha: DataTypes.BOOLEAN,
      bytes: DataTypes.INTEGER,
      createdAt: created(),
      deletedAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'photos' },
  )
  Artwork.init(
    {
      id,
      accountId: owner(),
      title: DataTypes.STRING(200),
      document: DataTypes.TEXT('long'),
      revision: { type: DataTypes.INTEGER, defaultValue: 1 },
      width: DataTypes.INTEGER,
      height: DataTypes.INTEGER,
      createdAt: created(),
      updatedAt: created(),
      deletedAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'artworks' },
  )
  Session.belongsTo(Account, { foreignKey: 'accountId', as: 'account' })
  Save.init(
    { id: { type: DataTypes.UUID, primaryKey: true }, artworkId: owner(), revision: DataTypes.INTEGER, savedAt: DataTypes.DATE(3) },
    { ...common, tableName: 'saves' },
  )
  KeptValues.init(
    {
      id,
      accountId: owner(),
      step: DataTypes.STRING(60),
      version: DataTypes.INTEGER,
      name: DataTypes.STRING(60),
      params: DataTypes.TEXT,
      createdAt: created(),
    },
    { ...common, tableName: 'kept_values' },
  )
  States.init(
    { id, accountId: owner(), artworkId: owner(), name: DataTypes.STRING(60), document: DataTypes.TEXT('long'), createdAt: created() },
    { ...common, tableName: 'states' },
  )
  OwnRecipes.init(
    { id, accountId: owner(), title: DataTypes.STRING(120), recipe: DataTypes.TEXT('long'), createdAt: created() },
    { ...common, tableName: 'own_recipes' },
  )
  Render.init(
    {
      id,
      accountId: owner(),
      artworkId: { type: DataTypes.UUID, allowNull: true },
      title: DataTypes.STRING(200),
      document: DataTypes.TEXT('long'),
      format: DataTypes.STRING(10),
      quality: DataTypes.INTEGER,
      ppi: { type: DataTypes.INTEGER, allowNull: true },
      longSide: { type: DataTypes.INTEGER, allowNull: true },
      state: { type: DataTypes.STRING(12), defaultValue: 'waiting' },
      progress: { type: DataTypes.FLOAT, defaultValue: 0 },
      width: { type: DataTypes.INTEGER, allowNull: true },
      height: { type: DataTypes.INTEGER, allowNull: true },
      bytes: { type: DataTypes.BIGINT, allowNull: true },
      message: { type: DataTypes.TEXT, allowNull: true },
      leaseUntil: { type: DataTypes.DATE(3), allowNull: true },
      claim: { type: DataTypes.UUID, allowNull: true },
      attempts: { type: DataTypes.INTEGER, defaultValue: 0 },
      startedAt: { type: DataTypes.DATE(3), allowNull: true },
      cancelAsked: { type: DataTypes.BOOLEAN, defaultValue: false },
      createdAt: created(),
      finishedAt: { type: DataTypes.DATE(3), allowNull: true },
    },
    { ...common, tableName: 'renders' },
  )
}
