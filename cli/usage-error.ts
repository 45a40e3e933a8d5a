/** The command was called wrongly; the message is for the person who called it. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}
