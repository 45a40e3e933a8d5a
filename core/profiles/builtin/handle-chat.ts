import { column, lookUp, type Expression, type ReadingProfile } from '../profile';

/**
 * The chat that a message belongs to, through the link table: by row number,
 * or by time where that is lost; one in the holding area through the link
 * table of that; a group also by the room that the message names.
 */
function chatOf(take: Expression): Expression {
  const byKey = lookUp('chat_message_join', 'message_id', column('ROWID'), column('chat_id'));
  const held = lookUp(
    'chat_recoverable_message_join',
    'message_id',
    column('ROWID'),
    column('chat_id')
  );
  const byTime = lookUp('chat_message_join', 'message_date', column('date'), column('chat_id'));
  const byRoom = lookUp('chat', 'room_name', column('cache_roomnames'), column('ROWID'));
  const byName = lookUp('chat', 'chat_identifier', column('cache_roomnames'), column('ROWID'));
  return lookUp('chat', 'ROWID', { first: [byKey, held, byTime, byRoom, byName] }, take);
}

const handle = lookUp('handle', 'ROWID', column('handle_id'), column('id'));

const members = chatOf(
  lookUp(
    'chat_handle_join',
    'chat_id',
    column('ROWID'),
    lookUp('handle', 'ROWID', column('handle_id'), column('id'))
  )
);

/** Kinds of `associated_message_type`: 2000 and up are reactions, 3000 and up take them back. */
const REACTIONS: Record<string, string> = {
  '2000': 'heart',
  '2001': 'thumbs up',
  '2002': 'thumbs down',
  '2003': 'laugh',
  '2004': 'exclamation marks',
  '2005': 'question mark'
};
const ADDED = [...Object.keys(REACTIONS), '2006', '2007'];
const TAKEN_BACK = ADDED.map((kind) => String(Number(kind) + 1000));

/** Handle–chat store: `message`, `handle`, `chat` and the tables that join them. */
export const handleChat: ReadingProfile = {
  id: 'handle-chat',
  title: 'handle–chat',
  needs: {
    message: ['text', 'date', 'is_from_me', 'handle_id'],
    handle: ['id']
  },
  knows: {
    message: ['guid', 'attributedBody', 'date_read', 'date_delivered', 'subject'],
    chat: ['guid', 'chat_identifier', 'display_name'],
    chat_message_join: ['chat_id', 'message_id'],
    chat_handle_join: ['chat_id', 'handle_id'],
    attachment: ['filename', 'mime_type', 'transfer_name'],
    message_attachment_join: ['message_id', 'attachment_id']
  },
  messages: [
    {
      table: 'message',
      key: 'ROWID',
      unique: 'guid',
      body: { first: [column('text'), { typedStream: column('attributedBody') }] },
      subject: column('subject'),
      sentAt: { value: column('date'), clock: 'nanoseconds-2001' },
      deliveredAt: { value: column('date_delivered'), clock: 'nanoseconds-2001' },
      readAt: { value: column('date_read'), clock: 'nanoseconds-2001' },
      system: [{ value: column('item_type'), not: ['', '0'] }],
      direction: {
        value: column('is_from_me'),
        values: { '0': 'incoming', '1': 'outgoing' },
        otherwise: 'unknown'
      },
      sender: handle,
      held: {
        since: {
          value: lookUp(
            'chat_recoverable_message_join',
            'message_id',
            column('ROWID'),
            column('delete_date')
          ),
          clock: 'nanoseconds-2001'
        },
        days: 30
      },
      replyTo: { value: column('thread_originator_guid'), names: 'unique' },
      reactionOf: {
        when: { value: column('associated_message_type'), is: [...ADDED, ...TAKEN_BACK] },
        target: { match: column('associated_message_guid'), pattern: '([^/:]+)$' },
        text: {
          first: [
            column('associated_message_emoji'),
            { map: column('associated_message_type'), values: REACTIONS }
          ]
        },
        removed: { value: column('associated_message_type'), is: TAKEN_BACK }
      },
      edits: column('message_summary_info'),
      marks: [
        {
          at: { value: column('date_retracted'), clock: 'nanoseconds-2001' },
          says: 'its writer took it back'
        },
        { at: { value: column('date_edited'), clock: 'nanoseconds-2001' }, says: 'edited' }
      ],
      thread: {
        key: {
          first: [
            chatOf(column('chat_identifier')),
            chatOf(column('guid')),
            column('cache_roomnames'),
            handle
          ]
        },
        participants: { first: [members, handle, chatOf(column('chat_identifier'))] },
        peer: handle,
        title: chatOf(column('display_name'))
      },
      attachments: [
        {
          rows: {
            table: 'attachment',
            match: 'ROWID',
            from: lookUp(
              'message_attachment_join',
              'message_id',
              column('ROWID'),
              column('attachment_id')
            )
          },
          name: column('transfer_name'),
          mime: column('mime_type'),
          path: column('filename'),
          bytes: column('total_bytes')
        }
      ]
    }
  ]
};
