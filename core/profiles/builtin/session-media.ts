import { column, lookUp, type Expression, type ReadingProfile } from '../profile';

const session = (take: string): Expression =>
  lookUp('Z*CHATSESSION', 'Z_PK', column('ZCHATSESSION'), column(take));

const member = (take: string): Expression =>
  lookUp('Z*GROUPMEMBER', 'Z_PK', column('ZGROUPMEMBER'), column(take));

const sessionJid: Expression = { jid: session('ZCONTACTJID') };

const members: Expression = {
  jid: lookUp('Z*GROUPMEMBER', 'ZCHATSESSION', column('ZCHATSESSION'), column('ZMEMBERJID'))
};

const media = (take: string): Expression =>
  lookUp('Z*MEDIAITEM', 'ZMESSAGE', column('Z_PK'), column(take));

/** Session–message–media chat: tables of an object store, numbered by `Z_PK`, times in seconds since 2001. */
export const sessionMedia: ReadingProfile = {
  id: 'session-message-media',
  title: 'session–message–media chat',
  needs: {
    'Z*CHATSESSION': ['Z_PK', 'ZCONTACTJID'],
    'Z*MESSAGE': ['Z_PK', 'ZCHATSESSION', 'ZISFROMME', 'ZMESSAGEDATE', 'ZTEXT']
  },
  knows: {
    'Z*CHATSESSION': ['ZPARTNERNAME'],
    'Z*MESSAGE': ['ZSTANZAID', 'ZGROUPMEMBER', 'ZMEDIAITEM', 'ZMESSAGETYPE', 'ZFROMJID'],
    'Z*GROUPMEMBER': ['Z_PK', 'ZMEMBERJID', 'ZCHATSESSION'],
    'Z*MEDIAITEM': ['Z_PK', 'ZMESSAGE', 'ZMEDIALOCALPATH']
  },
  messages: [
    {
      table: 'Z*MESSAGE',
      key: 'Z_PK',
      unique: 'ZSTANZAID',
      // Type 6 tells of the group itself, type 10 of the conversation's own events.
      system: [{ value: column('ZMESSAGETYPE'), is: ['6', '10'] }],
      body: { first: [column('ZTEXT'), media('ZTITLE')] },
      sentAt: { value: column('ZMESSAGEDATE'), clock: 'seconds-2001' },
      direction: {
        value: column('ZISFROMME'),
        values: { '0': 'incoming', '1': 'outgoing' },
        otherwise: 'unknown'
      },
      sender: {
        first: [
          { jid: member('ZMEMBERJID') },
          { jid: { match: column('ZFROMJID'), pattern: '^([\\d:.]+@s\\..+)$' } },
          sessionJid
        ]
      },
      thread: {
        key: sessionJid,
        participants: { first: [members, sessionJid] },
        title: {
          when: { value: column('ZGROUPMEMBER'), present: true },
          then: session('ZPARTNERNAME')
        }
      },
      replyTo: {
        value: lookUp('Z*MESSAGE', 'Z_PK', column('ZPARENTMESSAGE'), column('ZSTANZAID')),
        names: 'unique'
      },
      location: {
        lat: { when: { value: column('ZMESSAGETYPE'), is: ['5'] }, then: media('ZLATITUDE') },
        lon: { when: { value: column('ZMESSAGETYPE'), is: ['5'] }, then: media('ZLONGITUDE') }
      },
      attachments: [
        {
          rows: { table: 'Z*MEDIAITEM', match: 'ZMESSAGE', from: column('Z_PK') },
          only: [
            {
              value: {
                first: [column('ZMEDIALOCALPATH'), column('ZMEDIAURL'), column('ZXMPPTHUMBPATH')]
              },
              present: true
            }
          ],
          name: { match: column('ZMEDIALOCALPATH'), pattern: '([^/]+)$' },
          mime: { match: column('ZVCARDSTRING'), pattern: '^(\\w+/[\\w.+-]+)$' },
          path: { first: [column('ZMEDIALOCALPATH'), column('ZXMPPTHUMBPATH')] },
          bytes: column('ZFILESIZE'),
          seconds: column('ZMOVIEDURATION')
        }
      ]
    }
  ],
  names: [
    {
      table: 'Z*CHATSESSION',
      address: { jid: column('ZCONTACTJID') },
      name: column('ZPARTNERNAME')
    },
    {
      table: 'Z*GROUPMEMBER',
      address: { jid: column('ZMEMBERJID') },
      name: { first: [column('ZCONTACTNAME'), column('ZFIRSTNAME')] }
    }
  ]
};
