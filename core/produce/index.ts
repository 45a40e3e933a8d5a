export { inputOfCase } from './case-input';
export { ChoiceError } from './choose';
export type { ProducedFile } from './formats/format';

export type { InputSection, ProductionInput } from './input';
export { proofText, STATE_MARKS } from './model';
export type { Production, ProductionLine, ProductionThread } from './model';
export { RedactionError } from './redact';
export { runProduction, SettingsError } from './run';
export type { ProduceEvent, ProductionSummary, Workshop } from './run';
export {
  FORMAT_NAMES,
  FORMAT_TITLES,
  PRODUCTION_FORMAT,
  settingsProblem,
  settingsSchema
} from './settings';
export type { FormatName, Settings } from './settings';

export { verifyLog, verifyPackage } from './verify';
export type { Difference, Package, Verification } from './verify';
