import type { MediaFilter } from '../../service/api/media-api';

/** A sheet of everything that is seen and heard. */
export const ALL_MEDIA: MediaFilter = {
  query: '',
  kinds: [],
  person: null,
  state: 'all',
  message: 'all',
  label: null,
  least: 0,
  alike: null
};
