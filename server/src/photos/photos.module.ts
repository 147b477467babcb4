import { Global, Module } from '@nestjs/common'
import { CONFIG, type Config } from '../config.ts'
import { PictureThreads } from '../workers/picture-threads.ts'
import { PhotosController } from './photos.controller.ts'
import { PhotosService } from './photos.service.ts'
import { Store } from './store.ts'
import { STORE, THREADS } from './tokens.ts'

@Global()
@Module({
  controllers: [PhotosController],
  providers: [
    PhotosService,
    { provide: STORE, inject: [CONFIG], useFactory: (config: Config) => new Store(config.dataDir) },
    // one thread for decoding and thumbnails; renders have their own
    { provide: THREADS, useFactory: () => new PictureThreads(1) },
  ],
  exports: [PhotosService, STORE, THREADS],
})
export class PhotosModule {}
