import type { ReadingProfile } from '../profile';
import { handleChat } from './handle-chat';
import { telephonyProvider } from './telephony';

/** Built-in reading profiles; a new one is one file and one line here. */
export const builtInProfiles: readonly ReadingProfile[] = [telephonyProvider, handleChat];
