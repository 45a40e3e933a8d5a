export { assemble } from './assemble';
export type { CarvedDatabase } from './loose';
export { scanMedium } from './scan';
export type { FoundPage, MediumFinds } from './scan';
