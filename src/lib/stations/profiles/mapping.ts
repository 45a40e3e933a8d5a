import type { Clock, DeskTable, Expression, MessageMapping, ReadingProfile } from '$core/profiles';

/** Roles that the technician may give to columns. */
export type Role = 'body' | 'time' | 'sender' | 'conversation' | 'attachment';

/** The mapping that the profile desk works on; a profile maps one table of messages. */
export function mappingOf(profile: ReadingProfile): MessageMapping {
  return profile.messages[0]!;
}

function changed(profile: ReadingProfile, change: Partial<MessageMapping>): ReadingProfile {
  const [first, ...others] = profile.messages;
  return { ...profile, messages: [{ ...first!, ...change }, ...others] };
}

/** A first profile for a table where none could be worked out. */
export function emptyProfile(table: DeskTable): ReadingProfile {
  const nothing: Expression = { constant: '' };
  const key = table.columns[0]?.label ?? 'rowid';
  return {
    id: `by-hand:${table.name}`,
    title: `by hand from ${table.name}`,
    needs: {},
    knows: {},
    messages: [
      {
        table: table.name,
        key,
        body: nothing,
        sentAt: { value: nothing, clock: 'milliseconds-1970' },
        direction: { value: nothing, values: {}, otherwise: 'unknown' },
        sender: nothing,
        thread: { key: nothing, participants: nothing, collect: true }
      }
    ]
  };
}

export function expressionOf(profile: ReadingProfile, role: Role): Expression | null {
  const expression = roleOf(profile, role);
  // An empty text is what stands for no column.
  return same(expression, { constant: '' }) ? null : expression;
}

function roleOf(profile: ReadingProfile, role: Role): Expression | null {
  const { body, sentAt, sender, thread, attachments } = mappingOf(profile);
  switch (role) {
    case 'body':
      return body;
    case 'time':
      return sentAt.value;
    case 'sender':
      return sender;
    case 'conversation':
      return thread.key;
    case 'attachment':
      return attachments?.[0]?.path ?? null;
  }
}

/** The profile with another column in a role; null takes the role away. */
export function withRole(
  profile: ReadingProfile,
  role: Role,
  expression: Expression | null,
  clock: Clock | null
): ReadingProfile {
  const mapping = mappingOf(profile);
  const value = expression ?? { constant: '' };
  switch (role) {
    case 'body':
      return changed(profile, { body: value, only: [{ value, present: true }] });
    case 'time':
      return changed(profile, { sentAt: { value, clock: clock ?? mapping.sentAt.clock } });
    case 'sender':
      return changed(profile, { sender: value });
    case 'conversation': {
      const { own = [] } = mapping.thread;
      return changed(profile, { thread: { key: value, participants: value, collect: true, own } });
    }
    case 'attachment': {
      const name: Expression = { match: value, pattern: '([^/\\\\]+)$' };
      return changed(profile, { attachments: expression ? [{ name, path: expression }] : [] });
    }
  }
}

export function withClock(profile: ReadingProfile, clock: Clock): ReadingProfile {
  return changed(profile, { sentAt: { ...mappingOf(profile).sentAt, clock, fixed: true } });
}

/** Which values of a column mean that the owner wrote; all others came in. */
export function withDirection(
  profile: ReadingProfile,
  expression: Expression,
  outgoing: readonly string[],
  all: readonly string[]
): ReadingProfile {
  const values = Object.fromEntries(
    all.map((value) => [value, outgoing.includes(value) ? 'outgoing' : 'incoming'] as const)
  );
  return changed(profile, { direction: { value: expression, values, otherwise: 'unknown' } });
}

/** Whether two expressions say the same. */
export function same(a: Expression | null, b: Expression | null): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

/** A profile ready to be saved for databases of one make. */
export function named(profile: ReadingProfile, title: string, fingerprint: string): ReadingProfile {
  const { table } = mappingOf(profile);
  return {
    ...profile,
    id: `saved:${fingerprint}`,
    title,
    fingerprint,
    needs: { [table]: [] },
    knows: {}
  };
}
