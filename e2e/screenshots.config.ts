import config from './playwright.config.ts'

export default { ...config, workers: 1, projects: [{ name: 'screenshots', testMatch: 'screenshots.ts' }] }
