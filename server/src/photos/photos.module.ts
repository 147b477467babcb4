import { Global, Module } from '@nestjs/common'
import { CONFIG, type Config } from '../config.ts'
import { Pool } from '../workers/pool.ts'
import { PhotosController } from './photos.controller.ts'
import { PhotosService } from './photos.service.ts'
import { Store } from './store.ts'
import { DECODING, STORE, THUMBNAILS } from './tokens.ts'

@Global()
@Module({
  controllers: [PhotosController],
  providers: [
    PhotosService,
    { provide: STORE, inject: [CONFIG], useFactory: (config: Config) => new Store(config.dataDir) },
    // a kind of work each: none waits for another
    { provide: DECODING, inject: [CONFIG], useFactory: (c: Config) => new Pool({ size: c.decodeThreads, deadline: c.decodeSeconds * 1000, again: true }) },
    { provide: THUMBNAILS, inject: [CONFIG], useFactory: (c: Config) => new Pool({ size: 1, deadline: c.thumbnailSeconds * 1000, again: true }) },
  ],
  exports: [PhotosService, STORE, THUMBNAILS],
})
export class PhotosModule {}
