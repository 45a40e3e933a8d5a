import { spanOf, type Intake } from './intake';
import type { Warning } from './warnings';

interface Straightened {
  /** The answers as far as they do not contradict each other. */
  intake: Intake;
  warnings: Warning[];
}

/**
 * Answers that cannot all be true: a client who is upset mixes days up. They
 * are told, and the plan is made of what can be meant: days the wrong way
 * round are turned, moments in the future are not known.
 */
export function straightened(asked: Intake): Straightened {
  const warnings: Warning[] = [];
  const { now } = asked;
  const told = (text: string): true => {
    warnings.push({ code: 'contradiction', text: `${text} Ask again.` });
    return true;
  };
  const { lost, deleted, noticed } = asked;
  const intake: Intake = { ...asked };
  if (
    isAfter(lost.sentFrom, lost.sentTo) &&
    told('What was lost ends before it begins: the days were turned around.')
  )
    intake.lost = { ...lost, sentFrom: lost.sentTo, sentTo: lost.sentFrom };
  if (
    isAfter(deleted.from, deleted.to) &&
    told('The deletion ends before it begins: the days were turned around.')
  )
    intake.deleted = { ...deleted, from: deleted.to, to: deleted.from };
  if (
    isAfter(intake.deleted.from, now) &&
    told('It is said to be deleted in the future: that day was left out.')
  )
    intake.deleted = { ...intake.deleted, from: null, to: null };
  if (
    isAfter(intake.lost.sentFrom, intake.deleted.to) &&
    told('It is said to be deleted before it was sent: the day of the deletion was left out.')
  )
    intake.deleted = { ...intake.deleted, from: null, to: null };
  if (
    isAfter(noticed, now) &&
    told('It is said to be noticed in the future: that day was left out.')
  )
    intake.noticed = null;
  return { intake, warnings };
}

/** Whether a moment lies wholly behind another; unknown ones never do. */
function isAfter(a: string | null, b: string | null): boolean {
  return a !== null && b !== null && spanOf(a).from > spanOf(b).to;
}
