export { assemble } from './assemble';
export type { CarvedDatabase } from './assemble';
export { scanMedium } from './scan';
export type { FoundPage, MediumFinds } from './scan';
