import { Module, type DynamicModule } from '@nestjs/common'
import { ServeStaticModule } from '@nestjs/serve-static'
import { ThrottlerModule } from '@nestjs/throttler'
import { AccountsModule } from './accounts/accounts.module.ts'
import { ArtworksModule } from './artworks/artworks.module.ts'
import { CONFIG, type Config } from './config.ts'
import { DatabaseModule } from './database/database.module.ts'
import { DocsController } from './docs/docs.controller.ts'
import { OwnRecipesModule } from './own-recipes/own-recipes.module.ts'
import { StatesModule } from './states/states.module.ts'
import { KeptValuesModule } from './kept-values/kept-values.module.ts'
import { PhotosModule } from './photos/photos.module.ts'
import { PlanesModule } from './planes/planes.module.ts'
import { RendersModule } from './renders/renders.module.ts'

@Module({})
export class AppModule {
  static with(config: Config): DynamicModule {
    return {
      module: AppModule,
      global: true,
      imports: [
        ServeStaticModule.forRoot({ rootPath: config.webDir, exclude: ['/api/{*rest}'] }),
        ThrottlerModule.forRoot([{ ttl: 60_000, limit: config.signInLimit }]),
        DatabaseModule,
        AccountsModule,
        PhotosModule,
        PlanesModule,
        ArtworksModule,
        RendersModule,
        KeptValuesModule,
        StatesModule,
        OwnRecipesModule,
      ],
      controllers: [DocsController],
      providers: [{ provide: CONFIG, useValue: config }],
      exports: [CONFIG],
    }
  }
}
