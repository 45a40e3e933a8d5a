import { momentIn } from '../core/shown';
console.log(new Date(momentIn('2026-03-14', 'Europe/Oslo', 'first')).toISOString(), new Date(momentIn('2026-03-14', 'Europe/Oslo', 'last')).toISOString(), new Date(momentIn('2026-03-14T10:00:00', 'Europe/Oslo', 'last')).toISOString());
import { madeCase } from '../core/tests/production-case';
const m = madeCase({ messages: 120, hard: false }).findings.messages;
console.log(m.filter((x) => x.thread === m[0]!.thread && x.state === 'recovered').length);
