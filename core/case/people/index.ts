export { findJoins } from './find-joins';
export { joinPeople } from './join';
export { UNDECIDED } from './model';
export type { Decisions, Individual, Join, JoinedPeople, JoinReason, SharedLines } from './model';
export { NamesError, readNames } from './read-names';
export type { NamedAddresses } from './read-names';
