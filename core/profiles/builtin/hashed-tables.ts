import { column, type Expression, type ReadingProfile } from '../profile';

const peer: Expression = { tableHash: true };

/** In groups the writer's name stands before the text, with a colon and a line end. */
const SPEAKER = '^([\\w.@+-]{2,64}):\\r?\\n';

const isGroup = {
  value: { match: peer, pattern: '@(chatroom|group)' } as Expression,
  present: true
};
const own = { value: column('Des'), is: ['0'] };

const text: Expression = {
  first: [
    {
      when: { value: column('Type'), is: ['1', '10000'] },
      then: { without: column('Message'), pattern: SPEAKER }
    },
    { plainText: { without: column('Message'), pattern: SPEAKER } }
  ]
};

/** One table a conversation, named by a hash of the contact; kinds of message by number, bodies of some as XML. */
export const hashedTables: ReadingProfile = {
  id: 'hashed-tables',
  title: 'one table per conversation',
  needs: { 'Chat_*': ['MesLocalID', 'CreateTime', 'Message', 'Type', 'Des'] },
  knows: { 'Chat_*': ['MesSvrID', 'Status', 'ImgStatus', 'TableVer'] },
  messages: [
    {
      table: 'Chat_*',
      many: true,
      key: 'MesLocalID',
      system: [{ value: column('Type'), is: ['10000', '10002'] }],
      body: text,
      sentAt: { value: column('CreateTime'), clock: 'seconds-1970' },
      direction: {
        value: column('Des'),
        values: { '0': 'outgoing', '1': 'incoming' },
        otherwise: 'unknown'
      },
      sender: {
        first: [
          { when: { ...own, is: ['1'] }, then: { match: column('Message'), pattern: SPEAKER } },
          peer
        ]
      },
      thread: {
        key: peer,
        participants: peer,
        title: { when: isGroup, then: peer }
      }
    }
  ]
};
