export { PictureError, printerWith } from './printer';
export type { PageJob, PageSetter, Printed, Printer, SetPages } from './printer';
