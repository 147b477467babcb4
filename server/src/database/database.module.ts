import { Global, Inject, Injectable, Module, type OnApplicationShutdown } from '@nestjs/common'
import { Sequelize } from 'sequelize'
import { SequelizeStorage, Umzug } from 'umzug'
import { CONFIG, type Config } from '../config.ts'
import * as start from './migrations/001-start.ts'
import * as keptValues from './migrations/002-kept-values.ts'
import * as claimsAndSaves from './migrations/003-claims-and-saves.ts'
import * as statesAndRecipes from './migrations/004-states-and-recipes.ts'
import { defineModels } from './models.ts'

const migrations = [start, keptValues, claimsAndSaves, statesAndRecipes]

export function connect(config: Config): Sequelize {
  const { host, port, name, user, password } = config.database
  const sequelize = new Sequelize(name, user, password, {
    dialect: 'mariadb',
    host,
    port,
    logging: false,
    timezone: '+00:00',
    // waiting longer than this for a connection is told, not sat out
    pool: { max: 10, acquire: 8000 },
    dialectOptions: { connectTimeout: 4000 },
  })
  defineModels(sequelize)
  return sequelize
}

/** Brings the tables up to date. */
export async function migrate(sequelize: Sequelize): Promise<string[]> {
  const umzug = new Umzug({
    migrations: migrations.map((m) => ({ name: m.name, up: () => m.up(sequelize.getQueryInterface()), down: () => m.down(sequelize.getQueryInterface()) })),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  })
  return (await umzug.up()).map((m) => m.name)
}

@Injectable()
export class Database implements OnApplicationShutdown {
  readonly sequelize: Sequelize

  constructor(@Inject(CONFIG) config: Config) {
    this.sequelize = connect(config)
  }

  /** Last of all: others write their ends when they are destroyed. */
  async onApplicationShutdown(): Promise<void> {
    await this.sequelize.close()
  }
}

@Global()
@Module({ providers: [Database], exports: [Database] })
export class DatabaseModule {}
