export { COPY_TITLES, FIRST_CHECKS, MUST_NOT, ROUTE_TITLES, STEPS } from './checks';
export type { Forecast, Verdict } from './forecast';
export {
  COPY_KINDS,
  DELETION_WAYS,
  intakeProblem,
  intakeSchema,
  LOST_KINDS,
  MOST_COPIES,
  spanOf
} from './intake';
export type { Copy, CopyKind, DeletionWay, Intake, IntakeDocument, LostKind, Span } from './intake';
export { planOf } from './plan';
export type { Plan } from './plan';
export type { Route } from './route';
export { timesOf } from './times';
export type { Times } from './times';
export type { Warning } from './warnings';
