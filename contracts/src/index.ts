export * from './schemas.ts'
export * from './routes.ts'
