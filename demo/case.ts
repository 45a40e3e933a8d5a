import { MORE_SOURCES } from './more';
import { CHARACTERS, OWNER_NAME } from './people';

/** What the demo case is called, and the names that the client gave for the numbers. */
export const DEMO_CASE = {
  name: 'Ferry deposit',
  client: OWNER_NAME,
  zone: 'Europe/Oslo',
  region: 'GB',
  sources: [
    { name: 'Phone of the treasurer', files: ['phone-telephony.db'] },
    { name: 'Tablet from the office', files: ['tablet-chat.db'] },
    ...MORE_SOURCES.map(({ name, folder, files }) => ({ name, folder, files: Object.keys(files) }))
  ],
  names: Object.fromEntries(
    Object.values(CHARACTERS)
      .filter((character) => character.name !== '')
      .map((character) => [character.address, character.name])
  )
};
