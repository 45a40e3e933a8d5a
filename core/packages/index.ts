export { drain, drainAsync, listSource, openListed, openTree } from './tree';
export type { SourceListing, Tree, TreeFile, TreePackage } from './tree';
export { isHashFolder } from './backup/find';
export { isFirstPart, partsAfter } from './split';
export { markOf } from './mark';
export type { FileMark } from './mark';
export { baseName } from './paths';
export { PackageError, plainFile } from './types';
export type { ListedFile, Lock, Opening, PackageKind, PackageStep } from './types';
