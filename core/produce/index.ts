export { ChoiceError } from './choose';
export type { ProducedFile } from './formats/format';
export type { InputLine, InputSection, ProductionInput } from './input';
export { typeOf } from './media';
export { METHOD_WORDS, proofText, STATE_MARKS } from './model';
export type { Production, ProductionLine, ProductionThread } from './model';
export { loosePackage } from './loose';
export { safeFileName } from './names';
export { PackageError, packedPackage } from './packed';
export { readableCopy, UnreadableError } from './readable';
export { UndecidedError } from './guard';
export type { UndecidedFile } from './guard';
export { RedactionError, Secrets } from './redact';
export { prepareProduction, runProduction, SettingsError } from './run';
export type { ProduceEvent, ProductionSummary, Rebuilder, Workshop } from './run';
export {
  FORMAT_NAMES,
  FORMAT_TITLES,
  reasonsSchema,
  redactionsSchema,
  settingsProblem,
  settingsSchema
} from './settings';
export type { Exhibit, FormatName, Numbering, Reason, Redaction, Settings } from './settings';
export { verifyLog, verifyPackage } from './verify';
export type { Difference, Package, Verification } from './verify';
