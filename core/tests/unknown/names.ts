/** What a table or column stands for. */
export type Meaning = keyof typeof WORDS;

/** Ways in which programs call things. */
export type Style = 'snake' | 'camel' | 'upper' | 'cryptic';

const WORDS = {
  messages: [
    'messages',
    'message',
    'chat_message',
    'msgs',
    'im_log',
    'history',
    'items',
    'entries',
    'talk'
  ],
  inbox: ['inbox', 'received_messages', 'incoming', 'msg_in'],
  outbox: ['sent', 'outbox', 'sent_messages', 'msg_out'],
  id: ['id', 'message_id', 'mid', 'row_id', 'pk'],
  text: ['body', 'content', 'msg_text', 'message_body', 'txt', 'payload', 'value', 'words'],
  time: ['timestamp', 'ts', 'created_at', 'sent_date', 'date', 'msg_time', 'when_sent', 'stamp'],
  day: ['msg_date', 'day', 'date_part', 'on_date'],
  clock: ['msg_clock', 'time_of_day', 'time_part', 'at_time'],
  ownFlag: ['is_from_me', 'outgoing', 'mine', 'by_me', 'is_sent', 'from_self'],
  otherFlag: ['incoming', 'is_incoming', 'inbound', 'is_received'],
  neutralFlag: ['direction', 'dir', 'side', 'flow', 'way', 'des', 'flag2'],
  kind: ['type', 'kind', 'msg_type', 'category', 'box'],
  event: ['event_type', 'item_class', 'subtype', 'record_kind'],
  sender: ['sender', 'author', 'from_addr', 'sender_id', 'from_user', 'speaker'],
  recipient: ['recipient', 'to_addr', 'to_user', 'receiver', 'dest'],
  peer: ['peer', 'contact', 'remote_jid', 'counterpart', 'address', 'partner'],
  conversationId: ['conversation_id', 'chat_id', 'thread_id', 'room_id', 'dialog_id'],
  sessionId: ['session_id', 'segment_id', 'chat_session'],
  conversations: ['conversations', 'chats', 'threads', 'dialogs', 'rooms'],
  sessions: ['sessions', 'segments', 'chat_sessions'],
  contacts: ['contacts', 'users', 'people', 'buddies', 'persons'],
  contactId: ['contact_id', 'user_id', 'person_id', 'buddy_id'],
  members: ['members', 'participants', 'chat_members', 'conversation_users'],
  accounts: ['accounts', 'account', 'identities', 'my_profile'],
  name: ['display_name', 'name', 'full_name', 'nick'],
  address: ['address', 'jid', 'handle', 'phone_number', 'user_name'],
  title: ['title', 'subject', 'name', 'topic'],
  nick: ['nick', 'nickname', 'sender_nick', 'from_nick'],
  room: ['room', 'room_jid', 'channel', 'conversation'],
  read: ['read', 'is_read', 'seen', 'viewed'],
  unread: ['unread', 'is_new', 'pending_read'],
  delivered: ['delivered_at', 'delivery_time', 'ack_time', 'receipt_at'],
  status: ['send_status', 'delivery_state', 'ack', 'status'],
  duration: ['duration', 'call_seconds', 'length_sec'],
  target: ['target_id', 'ref_id', 'original_id', 'replaces_id'],
  record: ['json', 'record', 'blob', 'data', 'raw'],
  parts: ['parts', 'bodies', 'message_text', 'fragments'],
  partOf: ['message_id', 'msg_id', 'parent_id', 'owner_id'],
  sequence: ['seq', 'part_no', 'idx'],
  parent: ['envelopes', 'headers', 'deliveries', 'transfers'],
  parentId: ['envelope_id', 'header_id', 'delivery_id', 'transfer_id'],
  server: ['server_id', 'stanza_id', 'remote_id'],
  priority: ['priority', 'importance', 'flags'],
  starred: ['starred', 'pinned', 'favorite'],
  size: ['size', 'bytes', 'est_size'],
  device: ['device', 'resource', 'client']
} as const;

/** Gives names in one style; the same meaning is always called the same. */
export class Names {
  private readonly given = new Map<string, string>();
  private count = 0;

  constructor(
    private readonly style: Style,
    private readonly choose: <T>(list: readonly T[]) => T
  ) {}

  of(meaning: Meaning, part = ''): string {
    const key = `${meaning}/${part}`;
    let name = this.given.get(key);
    if (name === undefined) this.given.set(key, (name = this.styled(meaning)));
    return name;
  }

  private styled(meaning: Meaning): string {
    const plain = this.choose(WORDS[meaning]);
    switch (this.style) {
      case 'snake':
        return this.free(plain);
      case 'camel':
        return this.free(plain.replace(/_([a-z])/g, (_, letter: string) => letter.toUpperCase()));
      case 'upper':
        return this.free(`Z${plain.replaceAll('_', '').toUpperCase()}`);
      case 'cryptic':
        return `${'abcdefgh'[this.count % 8]}${this.count++}`;
    }
  }

  private free(name: string): string {
    const taken = new Set([...this.given.values()].map((known) => known.toLowerCase()));
    return taken.has(name.toLowerCase()) ? this.free(`${name}2`) : name;
  }
}
