export { archivalCopy } from './archival';
export { PictureError, printerWith } from './printer';
export type { PageFacts, PageJob, PageSetter, Printed, Printer, SetPages } from './printer';
