/** Elementary files that are read, by identifier (TS 51.011, section 10; TS 31.102, section 4). */
export type CardFile =
  | 'sms'
  | 'adn'
  | 'fdn'
  | 'sdn'
  | 'lnd'
  | 'msisdn'
  | 'smsp'
  | 'ext1'
  | 'ext2'
  | 'iccid'
  | 'imsi'
  | 'spn';

const BY_ID: Record<string, CardFile> = {
  '6f3c': 'sms',
  '6f3a': 'adn',
  '4f3a': 'adn',
  '6f3b': 'fdn',
  '6f49': 'sdn',
  '6f44': 'lnd',
  '6f40': 'msisdn',
  '6f42': 'smsp',
  '6f4a': 'ext1',
  '4f4a': 'ext1',
  '6f4b': 'ext2',
  '2fe2': 'iccid',
  '6f07': 'imsi',
  '6f46': 'spn'
};

const BY_NAME: Record<string, CardFile> = Object.fromEntries(
  [...new Set(Object.values(BY_ID))].map((name) => [name, name])
);

/** The elementary file that a name or path ends in: its identifier, alone or behind those of its folders, or its name after `EF`. */
export function cardFileOf(path: string): CardFile | null {
  const last = path
    .slice(path.lastIndexOf('/') + 1)
    .toLowerCase()
    .replace(/\.(bin|ef|raw|dat|hex|txt)$/, '');
  const id = /(?:^|[^0-9a-f]|[237]f[0-9a-f]{2}|5f[0-9a-f]{2})([2346]f[0-9a-f]{2})$/.exec(last)?.[1];
  if (id && BY_ID[id]) return BY_ID[id];
  const inside = /(?:^|[^0-9a-z])([2346]f[0-9a-f]{2})(?:[^0-9a-z]|$)/.exec(last)?.[1];
  if (inside && BY_ID[inside]) return BY_ID[inside];
  const name = /^ef[_. -]?([a-z0-9]+)$/.exec(last)?.[1] ?? '';
  return BY_NAME[name] ?? null;
}
