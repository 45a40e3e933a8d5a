import type { Said, Talk } from './talk';
import { talk } from './talk';
import { ZONE } from './build';

/** A family of text logs: the files that one program writes of the same conversations. */
export interface LogFamily {
  label: string;
  groups: boolean;
  files: (talk: Talk) => Record<string, string | Uint8Array>;
}

const parts = new Intl.DateTimeFormat('sv-SE', {
  timeZone: ZONE,
  dateStyle: 'short',
  timeStyle: 'medium'
});

/** Figures in the zone: `2024-03-05` and `14:03:22`. */
function local(at: number): { day: string; clock: string } {
  const [day, clock] = parts.format(at).split(' ');
  return { day: day!, clock: clock! };
}

/** Lines of each conversation, or of each of its days. */
function byRoom(t: Talk): Map<number, Said[]> {
  const rooms = new Map<number, Said[]>();
  for (const said of t.said) rooms.set(said.room, [...(rooms.get(said.room) ?? []), said]);
  return rooms;
}

function byDay(list: readonly Said[]): Map<string, Said[]> {
  const days = new Map<string, Said[]>();
  for (const said of list) {
    const { day } = local(said.at);
    days.set(day, [...(days.get(day) ?? []), said]);
  }
  return days;
}

const nameOf = (t: Talk, who: number): string => t.people[who]!.name;
const addressOf = (t: Talk, who: number): string => t.people[who]!.address;
const peerOf = (t: Talk, room: number): number => t.rooms[room]![0]!;
const roomName = (t: Talk, room: number): string =>
  t.rooms[room]!.length > 1 ? `crew${room}` : nameOf(t, peerOf(t, room));

function perRoom(
  t: Talk,
  path: (room: number) => string,
  write: (list: Said[], room: number) => string
): Record<string, string> {
  return Object.fromEntries([...byRoom(t)].map(([room, list]) => [path(room), write(list, room)]));
}

function perDay(
  t: Talk,
  path: (room: number, day: string, list: Said[]) => string,
  write: (list: Said[], room: number, day: string) => string
): Record<string, string> {
  const files: Record<string, string> = {};
  for (const [room, all] of byRoom(t))
    for (const [day, list] of byDay(all)) files[path(room, day, list)] = write(list, room, day);
  return files;
}

const lines = (list: readonly Said[], line: (said: Said) => string): string =>
  `${list.map(line).join('\n')}\n`;
const xml = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');
const longDay = (day: string): string =>
  new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeZone: 'UTC' }).format(Date.parse(day));

/** Sheets as programs write them in other languages. */
const HEADED = [
  {
    language: 'German',
    headings: ['Datum', 'Uhrzeit', 'Richtung', 'Rufnummer', 'Nachricht'],
    out: 'Gesendet',
    into: 'Empfangen',
    separator: ';',
    day: (iso: string): string => iso.split('-').reverse().join('.')
  },
  {
    language: 'Russian',
    headings: ['Дата', 'Время', 'Направление', 'Номер', 'Текст'],
    out: 'исходящее',
    into: 'входящее',
    separator: '\t',
    day: (iso: string): string => iso
  },
  {
    language: 'Japanese',
    headings: ['日付', '時刻', '種別', '電話番号', '本文'],
    out: '送信',
    into: '受信',
    separator: ',',
    day: (iso: string): string => iso.replaceAll('-', '/')
  },
  {
    language: 'Arabic',
    headings: ['التاريخ', 'الوقت', 'الاتجاه', 'الرقم', 'الرسالة'],
    out: 'صادر',
    into: 'وارد',
    separator: ',',
    day: (iso: string): string => iso.split('-').reverse().join('/')
  }
];

export const LOG_FAMILIES: LogFamily[] = [
  {
    label: 'days in headings',
    groups: true,
    files: (t) =>
      perRoom(
        t,
        (room) => `logs/${roomName(t, room)}.log`,
        (list) =>
          [...byDay(list)]
            .map(
              ([day, of]) =>
                `=== ${longDay(day)} ===\n${lines(of, ({ at, who, text }) => `${local(at).clock.slice(0, 8)} <${nameOf(t, who)}> ${text}`)}`
            )
            .join('\n')
      )
  },
  {
    label: 'the day in the file’s name',
    groups: true,
    files: (t) =>
      perDay(
        t,
        (room, day) => `irc/net/${roomName(t, room)}/${day}.log`,
        (list) =>
          `${lines(list.slice(0, 1), ({ at }) => `[${local(at).clock}] *** Joins: someone`)}${lines(list, ({ at, who, text }) => `[${local(at).clock}] <${nameOf(t, who)}> ${text}`)}`
      )
  },
  {
    label: 'the day in the folders’ names',
    groups: false,
    files: (t) =>
      perDay(
        t,
        (room, day) => `history/${day.replaceAll('-', '/')}/${nameOf(t, peerOf(t, room))}.txt`,
        (list) =>
          lines(
            list,
            ({ at, who, text }) =>
              `${local(at).clock} ${who === 0 ? 'me' : nameOf(t, who)}: ${text}`
          )
      )
  },
  {
    label: 'arrows as a flag, tabs between',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `chat/${addressOf(t, peerOf(t, room))}.tsv`,
        (list) =>
          lines(
            list,
            ({ at, who, text }) =>
              `${local(at).day} ${local(at).clock}\t${who === 0 ? '>' : '<'}\t${text}`
          )
      )
  },
  {
    label: 'fields between bars, a flag of letters',
    groups: false,
    files: (t) => ({
      'export/all.txt': lines(t.said, ({ n, at, room, who, text }) =>
        [
          n + 1,
          new Date(at).toISOString().slice(0, 19) + 'Z',
          who === 0 ? 'S' : 'R',
          addressOf(t, peerOf(t, room)),
          text
        ].join('|')
      )
    })
  },
  {
    label: 'fields between bars, from and to',
    groups: false,
    files: (t) => ({
      'export/all.txt': lines(
        t.said,
        ({ at, room, who, text }) =>
          `${local(at).day} | ${local(at).clock} | ${addressOf(t, who)} | ${addressOf(t, who === 0 ? peerOf(t, room) : 0)} | ${text}`
      )
    })
  },
  {
    label: 'seconds first',
    groups: true,
    files: (t) =>
      perRoom(
        t,
        (room) => `store/${roomName(t, room)}.txt`,
        (list) => lines(list, ({ at, who, text }) => `${at / 1000} ${nameOf(t, who)}: ${text}`)
      )
  },
  {
    label: 'milliseconds first, a flag in words',
    groups: false,
    files: (t) => ({
      'log.txt': lines(
        t.said,
        ({ at, who, room, text }) =>
          `${at}\t${who === 0 ? 'out' : 'in'}\t${addressOf(t, peerOf(t, room))}\t${text}`
      )
    })
  },
  {
    label: 'lines that continue',
    groups: true,
    files: (t) =>
      perRoom(
        t,
        (room) => `conversations/${roomName(t, room)}.txt`,
        (list) =>
          lines(
            list,
            ({ at, who, text }) =>
              `${local(at).day} ${local(at).clock} - ${nameOf(t, who)}: ${text}`
          )
      )
  },
  {
    label: 'elements with attributes',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `xml/${addressOf(t, peerOf(t, room))}.xml`,
        (list, room) =>
          `<?xml version="1.0" encoding="UTF-8"?>\n<log with="${addressOf(t, peerOf(t, room))}">\n${lines(list, ({ at, who, text }) => `<message from="${addressOf(t, who)}" to="${addressOf(t, who === 0 ? peerOf(t, room) : 0)}" time="${new Date(at).toISOString().slice(0, 19)}Z">${xml(text)}</message>`)}</log>\n`
      )
  },
  {
    label: 'elements with everything in attributes',
    groups: false,
    files: (t) => ({
      'backup.xml': `<?xml version="1.0"?>\n<backup count="${t.said.length}">\n${lines(t.said, ({ at, room, who, text }) => `<entry peer="${addressOf(t, peerOf(t, room))}" ts="${at}" out="${who === 0 ? 'true' : 'false'}" body="${xml(text)}"/>`)}</backup>\n`
    })
  },
  {
    label: 'pages, a class as the only mark',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `pages/${nameOf(t, peerOf(t, room))}.html`,
        (list, room) =>
          `<!doctype html><html><head><title>${nameOf(t, peerOf(t, room))}</title></head><body>${[
            ...byDay(list)
          ]
            .map(
              ([day, of]) =>
                `<h3>${longDay(day)}</h3>${of.map(({ at, who, text }) => `<div class="m ${who === 0 ? 'sent' : 'received'}"><span class="t">${local(at).clock}</span><p>${xml(text)}</p></div>`).join('\n')}`
            )
            .join('\n')}</body></html>`
      )
  },
  {
    label: 'pages, the side as the only mark',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `pages/${nameOf(t, peerOf(t, room))}.html`,
        (list) =>
          `<html><body><table>${list.map(({ at, who, text }) => `<tr><td style="text-align:${who === 0 ? 'right' : 'left'}">${xml(text)}<br><small>${local(at).day} ${local(at).clock}</small></td></tr>`).join('\n')}</table></body></html>`
      )
  },
  {
    label: 'a file a session, below account and contact',
    groups: false,
    files: (t) =>
      perDay(
        t,
        (room, day, list) =>
          `logs/proto/${addressOf(t, 0)}/${addressOf(t, peerOf(t, room))}/${day}.${local(list[0]!.at).clock.replaceAll(':', '')}.txt`,
        (list, room, day) =>
          `Conversation with ${addressOf(t, peerOf(t, room))} at ${day} ${local(list[0]!.at).clock} on ${addressOf(t, 0)}\n${lines(list, ({ at, who, text }) => `(${local(at).clock}) ${who === 0 ? addressOf(t, 0) : nameOf(t, who)}: ${text}`)}`
      )
  },
  {
    label: 'a sheet with headings',
    groups: false,
    files: (t) => ({
      'sheet.csv': `Date,Time,From,To,Message\r\n${t.said.map(({ at, room, who, text }) => `${local(at).day},${local(at).clock},${addressOf(t, who)},${addressOf(t, who === 0 ? peerOf(t, room) : 0)},"${text.replaceAll('"', '""')}"`).join('\r\n')}\r\n`
    })
  },
  {
    label: 'records of a line each',
    groups: true,
    files: (t) =>
      perRoom(
        t,
        (room) => `dump/${roomName(t, room)}.jsonl`,
        (list, room) =>
          lines(list, ({ n, at, who, text }) =>
            JSON.stringify({
              id: n,
              chat: `c${room}`,
              at: new Date(at).toISOString(),
              from: { name: nameOf(t, who), self: who === 0 },
              text
            })
          )
      )
  },
  {
    label: 'a bundle a session, called like the contact around it',
    groups: false,
    files: (t) =>
      perDay(
        t,
        (room, day) => {
          const peer = addressOf(t, peerOf(t, room));
          const name = `${peer} (${day}T08.00.00+0000)`;
          return `Logs/net.${addressOf(t, 0)}/${peer}/${name}.chatlog/${name}.xml`;
        },
        (list) =>
          `<?xml version="1.0" encoding="UTF-8" ?>\n<chat account="${addressOf(t, 0)}" service="net" version="1"><event kind="opened"/>\n${lines(list, ({ at, who, text }) => `<message sender="${addressOf(t, who)}" time="${new Date(at).toISOString()}"><div><span style="color: black">${xml(text)}</span></div></message>`)}</chat>\n`
      )
  },
  {
    label: 'a backup with the other party in both directions, and a word for the whole',
    groups: false,
    files: (t) => ({
      'backup.xml': `<?xml version="1.0"?>\n<all count="${t.said.length}" backup_set="7f3">\n${lines(t.said, ({ at, room, who, text }) => `  <sms protocol="0" address="${addressOf(t, peerOf(t, room))}" date="${at}" type="${who === 0 ? 2 : 1}" subject="null" body="${xml(text)}" read="1" contact_name="${nameOf(t, peerOf(t, room))}" />`)}</all>\n`
    })
  },
  {
    label: 'a numbered document a conversation, the last entry first',
    groups: true,
    files: (t) =>
      perRoom(
        t,
        (room) => `messages/inbox/${roomName(t, room).toLowerCase()}_x${room}/message_1.json`,
        (list, room) =>
          JSON.stringify({
            participants: [0, ...t.rooms[room]!].map((who) => ({ name: nameOf(t, who) })),
            messages: [...list].reverse().map(({ at, who, text }) => ({
              sender_name: nameOf(t, who),
              timestamp_ms: at,
              content: text,
              type: 'Plain'
            })),
            title: roomName(t, room),
            is_member: true
          })
      )
  },
  {
    label: 'names in brackets, with a blank or a rank before them',
    groups: true,
    files: (t) =>
      perRoom(
        t,
        (room) => `irclogs/net/${roomName(t, room)}.log`,
        (list, room) =>
          [...byDay(list)]
            .map(
              ([day, of]) =>
                `--- Day changed ${longDay(day)}\n${lines(of, ({ n, at, who, text }) => `${local(at).clock} <${t.rooms[room]!.length > 1 && n % 2 === 0 ? '@' : ' '}${nameOf(t, who)}> ${text}`)}`
            )
            .join('')
      )
  },
  {
    label: 'sessions with two lines of heading in one file',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `${nameOf(t, peerOf(t, room))}.log`,
        (list, room) =>
          [...byDay(list)]
            .map(
              ([day, of]) =>
                `\nSession Start: ${longDay(day)}\nSession Ident: ${nameOf(t, peerOf(t, room))}\n${lines(of, ({ at, who, text }) => `[${local(at).clock}] <${nameOf(t, who)}> ${text}`)}`
            )
            .join('')
      )
  },
  {
    label: 'a kind, a moment and how many lines go on',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `history/${addressOf(t, peerOf(t, room))}.history`,
        (list) =>
          lines(list, ({ at, who, text }) => {
            const moment = new Date(at).toISOString().slice(0, 19).replaceAll('-', '');
            const more = String(text.split('\n').length - 1).padStart(3, '0');
            return `${who === 0 ? 'MS' : 'MR'} ${moment}Z ${more} ${text}`;
          })
      )
  },
  {
    label: 'pages, a colour and a name in bold',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `h/${nameOf(t, peerOf(t, room))}.html`,
        (list) =>
          `<html><body>${[...byDay(list)].map(([day, of]) => `<h3>${day}</h3>${of.map(({ at, who, text }) => `<font color="${who === 0 ? '#16569e' : '#a82f2f'}"><font size="2">(${local(at).clock})</font> <b>${nameOf(t, who)}:</b></font> ${xml(text)}<br/>`).join('\n')}`).join('\n')}</body></html>`
      )
  },
  {
    label: 'pages, nothing but styles, names before the text',
    groups: true,
    files: (t) =>
      perRoom(
        t,
        (room) => `h/${roomName(t, room)}.html`,
        (list) =>
          `<html><body>${list.map(({ at, who, text }) => `<div style="margin-left:${who === 0 ? 40 : 0}px"><span style="font-weight:bold">${nameOf(t, who)}</span> <span style="color:gray">${local(at).day} ${local(at).clock}</span><div style="white-space:pre-wrap">${xml(text)}</div></div>`).join('\n')}</body></html>`
      )
  },
  {
    label: 'elements with a side, a file a conversation',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `x/${addressOf(t, peerOf(t, room))}.xml`,
        (list) =>
          `<?xml version="1.0"?><history>${list.map(({ at, who, text }) => `<item dir="${who === 0 ? 'o' : 'i'}" utc="${at / 1000}"><![CDATA[${text}]]></item>`).join('\n')}</history>`
      )
  },
  {
    label: 'elements with a number of their session, a file a conversation',
    groups: false,
    files: (t) =>
      perRoom(
        t,
        (room) => `x/${nameOf(t, peerOf(t, room))}.xml`,
        (list, room) =>
          `<?xml version="1.0"?><Log First="1">${list.map(({ at, who, text }) => `<Message Date="${local(at).day}" Time="${local(at).clock}" Moment="${new Date(at).toISOString()}" Session="1"><From><User Name="${nameOf(t, who)}"/></From><To><User Name="${nameOf(t, who === 0 ? peerOf(t, room) : 0)}"/></To><Text Style="font-family:serif; color:#000">${xml(text)}</Text></Message>`).join('')}</Log>`
      )
  },
  ...HEADED.map(({ language, headings, out, into, separator, day }): LogFamily => ({
    label: `a sheet with headings in ${language}`,
    groups: false,
    files: (t) => ({
      'sheet.csv': `${headings.join(separator)}\r\n${t.said.map(({ at, room, who, text }) => [day(local(at).day), local(at).clock, who === 0 ? out : into, addressOf(t, peerOf(t, room)), `"${text.replaceAll('"', '""')}"`].join(separator)).join('\r\n')}\r\n`
    })
  }))
];

/** Some texts of more than a line, where the family has them. */
function lined({ label }: LogFamily, text: string): string {
  return /^lines that continue|lines go on$/.test(label)
    ? text.replace(/ (\S+) (\S+)$/, '\n$1 $2')
    : text;
}

/** The conversations of a family, and the files that keep them. */
export function builtLogs(
  family: LogFamily,
  seed: number
): { talk: Talk; files: Record<string, Uint8Array> } {
  const addresses = (['mail', 'phone', 'handle'] as const)[seed % 3]!;
  const made = talk({ seed, groups: family.groups, count: 360, addresses });
  const t = {
    ...made,
    said: made.said.map((said) => ({
      ...said,
      text: lined(family, said.text.replaceAll('|', '/'))
    }))
  };
  const files = Object.fromEntries(
    Object.entries(family.files(t)).map(([path, content]) => [
      path,
      typeof content === 'string' ? Buffer.from(content) : content
    ])
  );
  return { talk: t, files };
}
