import { column, lookUp, type Expression, type ReadingProfile } from '../profile';

const conversation = (take: Expression): Expression =>
  lookUp('Conversations', 'id', column('convo_id'), take);

const members = lookUp('Participants', 'convo_id', column('convo_id'), column('identity'));

/** Kinds of message that the program writes about the conversation itself. */
const EVENTS = ['2', '4', '8', '10', '12', '13', '30', '39', '50', '51', '53', '100', '110'];

/** Desktop caller: conversations, their participants, messages with XML bodies, transfers and calls. */
export const desktopCaller: ReadingProfile = {
  id: 'desktop-caller',
  title: 'desktop caller',
  needs: {
    Messages: ['id', 'convo_id', 'author', 'timestamp', 'body_xml'],
    Conversations: ['id', 'identity']
  },
  knows: {
    Messages: ['guid', 'from_dispname', 'edited_timestamp', 'type'],
    Conversations: ['displayname', 'type'],
    Participants: ['convo_id', 'identity'],
    Contacts: ['displayname'],
    Transfers: ['filename', 'filesize', 'filepath'],
    Calls: ['begin_timestamp', 'duration', 'is_incoming'],
    Accounts: ['fullname']
  },
  messages: [
    {
      table: 'Messages',
      key: 'id',
      system: [{ value: column('type'), is: EVENTS }],
      body: { plainText: column('body_xml') },
      sentAt: { value: column('timestamp'), clock: 'seconds-1970' },
      marks: [{ at: { value: column('edited_timestamp'), clock: 'seconds-1970' }, says: 'edited' }],
      direction: { author: column('author'), ownTable: 'Accounts' },
      sender: column('author'),
      thread: {
        key: { first: [conversation(column('identity')), column('chatname')] },
        participants: {
          first: [members, conversation(column('identity')), column('dialog_partner')]
        },
        title: {
          when: { value: conversation(column('type')), is: ['2', '4'] },
          then: conversation(column('displayname'))
        },
        ownTable: 'Accounts'
      },
      attachments: [
        {
          rows: { table: 'Transfers', match: 'chatmsg_guid', from: column('guid') },
          name: column('filename'),
          path: { first: [column('filepath'), column('filename')] },
          bytes: column('filesize')
        }
      ]
    }
  ],
  calls: [
    {
      table: 'Calls',
      key: 'id',
      at: { value: column('begin_timestamp'), clock: 'seconds-1970' },
      seconds: column('duration'),
      address: {
        first: [
          lookUp('Conversations', 'id', column('conv_dbid'), column('identity')),
          column('host_identity')
        ]
      },
      direction: {
        value: column('is_incoming'),
        values: { '0': 'outgoing', '1': 'incoming' },
        otherwise: 'unknown'
      },
      missed: { value: column('duration'), is: ['', '0'] }
    }
  ],
  names: [
    { table: 'Messages', address: column('author'), name: column('from_dispname') },
    { table: 'Conversations', address: column('identity'), name: column('displayname') }
  ]
};
