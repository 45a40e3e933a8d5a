import facts from '../package.json' with { type: 'json' };

/** Version of the program. */
export const VERSION = facts.version;
