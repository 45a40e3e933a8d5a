import type { ReadingProfile } from '../profile';
import { callFlags, callRecords, callTable } from './calls';
import { personValues, rawContacts } from './contacts';
import { desktopCaller } from './desktop-caller';
import { handleChat } from './handle-chat';
import { hashedTables } from './hashed-tables';
import { jidChat, jidChatFlat } from './jid-chat';
import { sessionMedia } from './session-media';
import { telephonyProvider } from './telephony';

/** Built-in reading profiles; a new one is one file and one line here. */
export const builtInProfiles: readonly ReadingProfile[] = [
  telephonyProvider,
  handleChat,
  sessionMedia,
  jidChat,
  jidChatFlat,
  hashedTables,
  desktopCaller,
  rawContacts,
  personValues,
  callTable,
  callRecords,
  callFlags
];
