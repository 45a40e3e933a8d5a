import type { CharacterKey, GROUPS } from './people';

/** Who says it: a person's key, or `me` for the owner of the phone. */
export type Speaker = CharacterKey | 'me';

export interface Beat {
  /** Local wall time, `YYYY-MM-DD HH:MM:SS`. */
  at: string;
  /** Conversation: a person or a group. */
  with: CharacterKey | keyof typeof GROUPS;
  by: Speaker;
  text: string;
  /** Deleted on the third of April. */
  deleted?: true;
  picture?: string;
}

/**
 * The thread that a reader can follow: the association pays the yard half of
 * the deposit in cash, without a receipt, and the yard later says that it
 * never saw the money. What proves the payment was deleted.
 */
export const BEATS: Beat[] = [
  {
    at: '2025-09-08 09:12:20',
    with: 'committee',
    by: 'bjarne',
    text: 'Welcome to the yard committee thread. Agenda for the autumn: the ferry Havsule, slip fees, and who repairs the tea urn.'
  },
  {
    at: '2025-09-08 09:15:02',
    with: 'committee',
    by: 'me',
    text: 'The ferry association voted yes last night. We want the yard to do the whole hull, if the price is fair.'
  },
  {
    at: '2025-09-08 09:31:47',
    with: 'committee',
    by: 'halvard',
    text: 'Price will be fair. Price will also be 160,000.'
  },
  {
    at: '2025-09-08 09:32:30',
    with: 'committee',
    by: 'ingrid',
    text: 'He says that with a straight face 😄'
  },
  {
    at: '2025-10-02 18:20:11',
    with: 'halvard',
    by: 'halvard',
    text: 'I looked at Havsule today. Garboard strakes are gone on the port side, and two frames behind the engine. Honest boat otherwise.'
  },
  {
    at: '2025-10-02 18:26:40',
    with: 'halvard',
    by: 'me',
    text: 'Can it be ready for the summer route?'
  },
  {
    at: '2025-10-02 18:29:05',
    with: 'halvard',
    by: 'halvard',
    text: 'If she is on the slip by April. The slip costs me every day that she is not.'
  },
  {
    at: '2025-11-17 20:02:00',
    with: 'committee',
    by: 'bjarne',
    text: 'Minutes: estimate of 160,000 accepted. Deposit of 80,000 before work begins, rest on launch. Carried with one against.'
  },
  {
    at: '2025-11-17 20:04:33',
    with: 'committee',
    by: 'ragna',
    text: 'The one against was me, for the record. Deposit first and no date in writing is not how my grandmother bought boats.'
  },
  {
    at: '2026-01-21 12:10:15',
    with: 'halvard',
    by: 'halvard',
    text: 'Oak is ordered. The mill wants paying. When does the deposit come?'
  },
  {
    at: '2026-01-21 12:44:09',
    with: 'halvard',
    by: 'me',
    text: 'The grant is held up in the county office. They say February.'
  },
  {
    at: '2026-02-19 16:30:44',
    with: 'halvard',
    by: 'halvard',
    text: 'February is nearly over, Eirin.'
  },
  {
    at: '2026-02-19 17:05:12',
    with: 'halvard',
    by: 'me',
    text: 'I know. I ring them every second day.'
  },
  {
    at: '2026-03-09 07:58:00',
    with: 'ragna',
    by: 'ragna',
    text: 'Halvard was in the café telling everyone that the association is broke. Is it?'
  },
  {
    at: '2026-03-09 08:06:31',
    with: 'ragna',
    by: 'me',
    text: 'No. The grant came on Friday. I have it in writing from the bank, 80,000, and not a day too early.'
  },
  {
    at: '2026-03-12 08:41:07',
    with: 'halvard',
    by: 'halvard',
    text: 'The yard will not start on the ferry before the deposit is in. You know that.'
  },
  {
    at: '2026-03-12 08:52:30',
    with: 'halvard',
    by: 'me',
    text: 'I know. The co-op meets on Saturday, I will put it to them then. 🛶'
  },
  {
    at: '2026-03-12 08:55:12',
    with: 'halvard',
    by: 'halvard',
    deleted: true,
    text: 'Forget Saturday. Pay me half now in cash and I sign the slip over to you today.'
  },
  {
    at: '2026-03-12 08:57:40',
    with: 'halvard',
    by: 'me',
    deleted: true,
    text: 'Half is 40,000. Without a receipt?'
  },
  {
    at: '2026-03-12 09:02:18',
    with: 'halvard',
    by: 'halvard',
    deleted: true,
    text: 'No receipt. Bring it to the shed before six and put it in the red paint tin. I write it up as oak.'
  },
  {
    at: '2026-03-12 09:10:55',
    with: 'halvard',
    by: 'me',
    deleted: true,
    text: 'I do not like it. But the slip is the slip. I will bring it at five.'
  },
  {
    at: '2026-03-12 11:48:19',
    with: 'ragna',
    by: 'me',
    text: 'Can you come with me to the shed at five? I have to hand something over and I want a witness.'
  },
  {
    at: '2026-03-12 11:53:02',
    with: 'ragna',
    by: 'ragna',
    text: 'Of course. What are we handing over?',
    picture: 'slipway.jpg'
  },
  {
    at: '2026-03-12 11:54:40',
    with: 'ragna',
    by: 'me',
    deleted: true,
    text: '40,000 in an envelope, for Halvard. Half the deposit. He wants no paper about it.'
  },
  {
    at: '2026-03-12 11:56:21',
    with: 'ragna',
    by: 'ragna',
    deleted: true,
    text: 'Then I am certainly coming. And I am photographing the tin.'
  },
  {
    at: '2026-03-12 17:22:03',
    with: 'halvard',
    by: 'halvard',
    deleted: true,
    text: 'Counted it. 40,000, all there. She goes on the slip on Monday.',
    picture: 'tin.jpg'
  },
  {
    at: '2026-03-12 17:24:48',
    with: 'halvard',
    by: 'me',
    deleted: true,
    text: 'Thank you. And the other half when the planks are on, by bank, with an invoice.'
  },
  { at: '2026-03-13 07:20:44', with: 'halvard', by: 'me', text: 'When do you sign?' },
  {
    at: '2026-03-13 07:31:09',
    with: 'halvard',
    by: 'halvard',
    deleted: true,
    text: 'Sunday. The committee need not know about the envelope.'
  },
  {
    at: '2026-03-16 10:05:30',
    with: 'crew',
    by: 'sunniva',
    text: 'She is on the slip!! Havsule is out of the water for the first time since my mother was a deckhand 🎉⛴️'
  },
  { at: '2026-03-16 10:07:02', with: 'crew', by: 'ragna', text: 'Look at that keel. I could cry.' },
  {
    at: '2026-03-18 21:14:12',
    with: 'second',
    by: 'second',
    deleted: true,
    text: 'This is Halvard on my other phone. Use this one for anything about the tin.'
  },
  { at: '2026-03-18 21:16:50', with: 'second', by: 'me', deleted: true, text: 'Why two phones?' },
  {
    at: '2026-03-18 21:18:33',
    with: 'second',
    by: 'second',
    deleted: true,
    text: 'Because the yard pays for the first one and Bjarne reads the bill.'
  },
  {
    at: '2026-03-24 19:40:10',
    with: 'second',
    by: 'second',
    deleted: true,
    text: 'I need ten more by Friday or the oak goes to somebody else.'
  },
  {
    at: '2026-03-24 19:52:26',
    with: 'second',
    by: 'me',
    deleted: true,
    text: 'We agreed: the rest by bank, with an invoice.'
  },
  {
    at: '2026-03-24 19:55:01',
    with: 'second',
    by: 'second',
    deleted: true,
    text: 'We agreed nothing that anyone can read.'
  },
  {
    at: '2026-03-25 06:48:19',
    with: 'second',
    by: 'second',
    deleted: true,
    text: 'You sleep on it, I sleep on 40,000. 😴'
  },
  {
    at: '2026-03-25 07:02:33',
    with: 'second',
    by: 'me',
    deleted: true,
    text: 'So you do have it. Good. I keep this message.'
  },
  {
    at: '2026-03-27 22:31:07',
    with: 'second',
    by: 'second',
    deleted: true,
    text: 'The tin is empty, the oak is paid, and there is no paper. Think about who they believe.'
  },
  {
    at: '2026-03-27 22:40:52',
    with: 'second',
    by: 'me',
    deleted: true,
    text: 'Ragna saw me put it in. She took a picture of the tin.'
  },
  { at: '2026-03-27 22:41:30', with: 'second', by: 'second', deleted: true, text: 'What picture' },
  {
    at: '2026-03-30 14:03:55',
    with: 'committee',
    by: 'bjarne',
    text: 'Eirin, the yard book shows no deposit for Havsule. Halvard has stopped work. What is going on?'
  },
  {
    at: '2026-03-30 14:09:17',
    with: 'committee',
    by: 'halvard',
    text: 'Nothing was paid. I put her on the slip out of goodwill.'
  },
  {
    at: '2026-03-30 14:11:40',
    with: 'committee',
    by: 'me',
    text: 'That is not true, and you know it.'
  },
  {
    at: '2026-03-30 14:12:58',
    with: 'committee',
    by: 'halvard',
    deleted: true,
    text: 'Careful, Eirin. You handed nothing over that has a name on it.'
  },
  {
    at: '2026-03-30 14:14:06',
    with: 'committee',
    by: 'ingrid',
    text: 'Can we do this at the meeting, please.'
  },
  {
    at: '2026-04-02 18:45:00',
    with: 'halvard',
    by: 'halvard',
    text: 'Come to the yard tomorrow and we settle it like neighbours. Bring your phone, I want to see what you think I wrote.'
  },
  { at: '2026-04-02 19:01:32', with: 'halvard', by: 'me', text: 'Fine. Ten o’clock.' },
  {
    at: '2026-04-03 13:22:41',
    with: 'ragna',
    by: 'me',
    text: 'He asked to see my phone, went out to “find better light” with it, and now half of what he wrote is gone.'
  },
  {
    at: '2026-04-03 13:25:03',
    with: 'ragna',
    by: 'ragna',
    text: 'Do not touch it any more. Switch it off. I know somebody who gets such things back.'
  },
  {
    at: '2026-04-20 09:30:12',
    with: 'committee',
    by: 'bjarne',
    text: 'The association’s lawyer asks for all messages about the deposit by the end of May. Please keep everything.'
  },
  {
    at: '2026-06-11 08:15:40',
    with: 'crew',
    by: 'sunniva',
    text: 'Summer route is off for this year, I am told. The ferry stays on the slip until the lawyers have eaten.'
  },
  {
    at: '2026-10-12 11:02:09',
    with: 'ragna',
    by: 'ragna',
    text: 'Hearing is set for the 24th of November. They want the messages printed, with the times.'
  },
  {
    at: '2026-10-12 11:10:27',
    with: 'ragna',
    by: 'me',
    text: 'They will get them. With the times. 🕯️'
  }
];
