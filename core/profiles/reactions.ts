import type { StoreMessage, StoreReaction } from './types';

/** A row that reacts to another message, and the line that it would be by itself. */
export interface PendingReaction {
  target: string;
  reaction: StoreReaction;
  removed: boolean;
  line: StoreMessage;
  /** State of the message that it reacts to, where that was found. */
  found?: 'live' | 'freed';
}

/**
 * Puts reactions to the messages that they name. One that names a message
 * that is not there stays a line of its own; one that was taken back goes.
 */
export function foldReactions(
  messages: StoreMessage[],
  reactions: PendingReaction[]
): StoreMessage[] {
  if (reactions.length === 0) return messages;
  const byUnique = new Map<string, StoreMessage>();
  for (const message of messages) {
    if (message.unique !== null && !byUnique.has(message.unique))
      byUnique.set(message.unique, message);
  }
  const alone: StoreMessage[] = [];
  const inOrder = [...reactions].sort((a, b) => (a.reaction.at ?? 0) - (b.reaction.at ?? 0));
  for (const { target, reaction, removed, line } of inOrder) {
    const message = byUnique.get(target);
    if (!message) alone.push(line);
    else if (line.state === 'live' || message.state !== 'live') react(message, reaction, removed);
  }
  return [...messages, ...alone];
}

/** Each person has one reaction to a message; a later one replaces it. */
export function react(message: StoreMessage, reaction: StoreReaction, removed: boolean): void {
  const others = message.reactions.filter((known) => known.address !== reaction.address);
  message.reactions = removed ? others : [...others, reaction];
}
