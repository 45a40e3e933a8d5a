import { column, lookUp, type Expression, type ReadingProfile } from '../profile';

function jidOf(key: string): Expression {
  return { jid: lookUp('jid', '_id', column(key), column('raw_string')) };
}

const chat = (take: Expression): Expression => lookUp('chat', '_id', column('chat_row_id'), take);
const chatJid = chat(jidOf('jid_row_id'));

/** Members of a group, where the store keeps them. */
const members = chat(
  lookUp(
    'group_participant_user',
    'group_jid_row_id',
    column('jid_row_id'),
    jidOf('user_jid_row_id')
  )
);

function media(take: string): Expression {
  return lookUp('message_media', 'message_row_id', column('_id'), column(take));
}

function place(take: string): Expression {
  return lookUp('message_location', 'message_row_id', column('_id'), column(take));
}

/** Jid chat: `message` rows that name their chat and sender by row numbers of `jid`. */
export const jidChat: ReadingProfile = {
  id: 'jid-chat',
  title: 'jid chat',
  needs: {
    message: ['_id', 'chat_row_id', 'from_me', 'timestamp', 'text_data'],
    chat: ['_id', 'jid_row_id'],
    jid: ['_id', 'raw_string']
  },
  knows: {
    message: ['key_id', 'sender_jid_row_id', 'status', 'message_type', 'received_timestamp'],
    chat: ['subject'],
    message_media: ['message_row_id', 'file_path', 'mime_type', 'file_size'],
    message_thumbnail: ['message_row_id', 'thumbnail'],
    message_quoted: ['message_row_id', 'key_id'],
    message_revoked: ['message_row_id'],
    message_system: ['message_row_id'],
    message_location: ['message_row_id', 'latitude', 'longitude'],
    group_participant_user: ['group_jid_row_id', 'user_jid_row_id']
  },
  messages: [
    {
      table: 'message',
      key: '_id',
      unique: 'key_id',
      // Row 1 of a fresh store is a placeholder without chat and time.
      only: [{ value: column('chat_row_id'), not: ['', '-1', '0'] }],
      system: [
        { value: column('message_type'), is: ['7'] },
        {
          value: lookUp(
            'message_system',
            'message_row_id',
            column('_id'),
            column('message_row_id')
          ),
          present: true
        }
      ],
      body: { first: [column('text_data'), media('media_caption')] },
      sentAt: { value: column('timestamp'), clock: 'milliseconds-1970' },
      deliveredAt: {
        value: lookUp(
          'receipt_device',
          'message_row_id',
          column('_id'),
          column('receipt_device_timestamp')
        ),
        clock: 'milliseconds-1970'
      },
      readAt: {
        value: lookUp('receipt_user', 'message_row_id', column('_id'), column('read_timestamp')),
        clock: 'milliseconds-1970'
      },
      direction: {
        value: column('from_me'),
        values: { '0': 'incoming', '1': 'outgoing' },
        otherwise: 'unknown'
      },
      sender: {
        first: [
          {
            when: { value: column('sender_jid_row_id'), not: ['', '0'] },
            then: jidOf('sender_jid_row_id')
          },
          chatJid
        ]
      },
      thread: {
        key: chatJid,
        // Without a list of members those who write in a group join it one by one.
        participants: { first: [members, chatJid] },
        title: chat(column('subject'))
      },
      replyTo: {
        value: lookUp('message_quoted', 'message_row_id', column('_id'), column('key_id')),
        names: 'unique'
      },
      reactions: [
        {
          rows: {
            table: 'message_add_on',
            match: 'parent_message_row_id',
            from: column('_id')
          },
          text: lookUp(
            'message_add_on_reaction',
            'message_add_on_row_id',
            column('_id'),
            column('reaction')
          ),
          person: jidOf('sender_jid_row_id'),
          own: { value: column('from_me'), is: ['1'] },
          at: {
            value: lookUp(
              'message_add_on_reaction',
              'message_add_on_row_id',
              column('_id'),
              column('sender_timestamp')
            ),
            clock: 'milliseconds-1970'
          }
        }
      ],
      location: {
        lat: place('latitude'),
        lon: place('longitude'),
        label: { first: [place('place_name'), place('place_address')] }
      },
      attachments: [
        {
          rows: { table: 'message_media', match: 'message_row_id', from: column('_id') },
          name: {
            first: [column('media_name'), { match: column('file_path'), pattern: '([^/]+)$' }]
          },
          mime: column('mime_type'),
          path: column('file_path'),
          bytes: { first: [column('file_size'), column('file_length')] },
          width: column('width'),
          height: column('height'),
          seconds: column('media_duration'),
          thumbnail: lookUp(
            'message_thumbnail',
            'message_row_id',
            column('message_row_id'),
            column('thumbnail')
          )
        }
      ]
    }
  ]
};

const isGroup = { value: column('remote_resource'), present: true };

/** The older form of the same: all in one table. */
export const jidChatFlat: ReadingProfile = {
  id: 'jid-chat-flat',
  title: 'jid chat, single table',
  needs: {
    messages: ['_id', 'key_remote_jid', 'key_from_me', 'data', 'timestamp']
  },
  knows: {
    messages: [
      'key_id',
      'status',
      'media_mime_type',
      'media_name',
      'media_size',
      'remote_resource'
    ],
    chat_list: ['key_remote_jid', 'subject'],
    group_participants: ['gjid', 'jid'],
    messages_quotes: ['key_id'],
    message_thumbnails: ['key_id', 'thumbnail']
  },
  messages: [
    {
      table: 'messages',
      key: '_id',
      unique: 'key_id',
      only: [{ value: column('key_remote_jid'), not: ['', '-1'] }],
      system: [{ value: column('status'), is: ['6'] }],
      body: { first: [column('data'), column('media_caption')] },
      sentAt: { value: column('timestamp'), clock: 'milliseconds-1970' },
      readAt: { value: column('read_device_timestamp'), clock: 'milliseconds-1970' },
      direction: {
        value: column('key_from_me'),
        values: { '0': 'incoming', '1': 'outgoing' },
        otherwise: 'unknown'
      },
      sender: { jid: { first: [column('remote_resource'), column('key_remote_jid')] } },
      thread: {
        key: { jid: column('key_remote_jid') },
        participants: {
          first: [
            { jid: lookUp('group_participants', 'gjid', column('key_remote_jid'), column('jid')) },
            { when: isGroup, then: { jid: column('remote_resource') } },
            { jid: column('key_remote_jid') }
          ]
        },
        title: lookUp('chat_list', 'key_remote_jid', column('key_remote_jid'), column('subject'))
      },
      replyTo: {
        value: lookUp('messages_quotes', '_id', column('quoted_row_id'), column('key_id')),
        names: 'unique'
      },
      location: { lat: column('latitude'), lon: column('longitude'), label: column('media_name') },
      attachments: [
        {
          only: [{ value: column('media_mime_type'), present: true }],
          name: {
            first: [column('media_name'), { match: column('media_url'), pattern: '([^/]+)$' }]
          },
          mime: column('media_mime_type'),
          path: column('media_name'),
          bytes: column('media_size'),
          seconds: column('media_duration'),
          thumbnail: {
            first: [
              lookUp('message_thumbnails', 'key_id', column('key_id'), column('thumbnail')),
              column('raw_data')
            ]
          }
        }
      ]
    }
  ]
};
