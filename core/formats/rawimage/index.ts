export { assemble } from './assemble';
export type { CarvedDatabase } from './loose';
export { scanMedium } from './scan';
export type { FoundPage, MediumFinds } from './scan';
export { carveByContent, fileAt } from './carved-files';
export type { CarvedFile, Carving } from './carved-files';
