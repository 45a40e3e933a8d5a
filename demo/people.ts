/** The invented people of the demo case. Numbers come from ranges reserved for fiction. */
export interface Character {
  key: string;
  name: string;
  address: string;
}

export const OWNER_NAME = 'Eirin Vold';

export const CHARACTERS = {
  halvard: { key: 'halvard', name: 'Halvard Nystuen', address: '+447700900184' },
  ragna: { key: 'ragna', name: 'Ragna Solheim', address: '+447700900219' },
  sunniva: { key: 'sunniva', name: 'Sunniva Lie', address: '+447700900102' },
  bjarne: { key: 'bjarne', name: 'Bjarne Tveit', address: '+447700900455' },
  ingrid: { key: 'ingrid', name: 'Ingrid Mo', address: '+447700900468' },
  kostas: { key: 'kostas', name: 'Κώστας Βαμβακάς', address: '+447700900331' },
  haru: { key: 'haru', name: '田中 春', address: '+447700900412' },
  layla: { key: 'layla', name: 'ليلى حداد', address: '+447700900527' },
  yevhen: { key: 'yevhen', name: 'Євген Коваль', address: '+447700900640' },
  ottar: { key: 'ottar', name: 'Ottar (chandler)', address: 'ottar@quay.example' },
  second: { key: 'second', name: '', address: '+447700900770' },
  notices: { key: 'notices', name: '', address: '72022' }
} satisfies Record<string, Character>;

export type CharacterKey = keyof typeof CHARACTERS;

export interface Group {
  key: string;
  title: string;
  members: CharacterKey[];
}

export const GROUPS = {
  committee: {
    key: 'committee',
    title: 'Yard committee',
    members: ['halvard', 'ragna', 'bjarne', 'ingrid', 'sunniva']
  },
  crew: { key: 'crew', title: 'Ferry crew', members: ['ragna', 'sunniva', 'yevhen', 'kostas'] }
} satisfies Record<string, Group>;
