import type { CharacterKey, GROUPS } from './people';

/**
 * Everyday exchanges. A line begins with `>` for the owner and `<` for the
 * other, in groups with the number of the member. `{a|b|c}` is one of them.
 */
type Exchange = string[];

const FRIENDS: Exchange[] = [
  [
    '< Coffee at {the quay|the sail loft|mine}?',
    '> {Ten minutes|Half an hour|After the post}.',
    '< I have {cinnamon buns|the last of the waffles|only biscuits}.',
    '> Sold.'
  ],
  [
    '> Did you see the {seal|otter|eagle} by the {outer mark|slip|bathing rock}?',
    '< Every morning this week. It {stares|steals|sings}.',
    '> Takes after {Bjarne|the harbour master|my uncle}.'
  ],
  [
    '< Wind is going round to the {north-west|south|east}. {Double your lines|Leave the dinghy up|Sleep well}.',
    '> Thanks. {Done|Going down now|I will ask Sunniva}.'
  ],
  [
    '< Can I borrow the {long ladder|heat gun|big drill} {tomorrow|on Thursday|over the weekend}?',
    '> Yes, it stands {behind the paint store|in the hall|under the stairs}. Bring it back {clean|this year|before Sunday}.',
    '< When have I ever not.',
    '> {May|The winter of the eels|Twice}.'
  ],
  [
    '> How is the {knee|back|shoulder}?',
    '< {Better|Cross with me|Still there}. The doctor says {swim|rest|stop painting boats}.',
    '> So you will {paint boats|do the opposite|swim to the doctor}.'
  ],
  [
    '< {Mum|Aunt Signe|The school} asks if you come on {Sunday|Saturday|the 17th}.',
    '> Tell {her|them} yes, and that I bring {the fish soup|the rhubarb cake|nothing with raisins}.'
  ],
  [
    '< Choir is moved to {seven|half past seven|Wednesday}.',
    '> Again?',
    '< The {organ|heating|conductor} {broke|has a cold|is in a mood}.',
    '> 🙄'
  ],
  [
    '> Is the {bakery|library|chemist} open today?',
    '< Until {two|four|noon}. They have {rye|cardamom knots|nothing left}.',
    '> Then I {run|cycle|wait for tomorrow}.'
  ],
  [
    '< You left your {gloves|glasses|good pencil} {in the boat|at ours|on the bench}.',
    '> Keep {them|it} warm for me. I come by {tonight|at six|tomorrow}.'
  ],
  [
    '< Look at the sky {now|over the sound|to the west}.',
    '> {Oh my|I have no words|Green! It is green}. Thank you for telling me.'
  ],
  [
    '> What did the vet say about {Pilot|the cat|old Bosun}?',
    '< {Teeth|Too much herring|Nothing wrong, he is just lazy}. {320|450|180} for being told that.',
    '> Send the bill to {the herring|him|Bjarne}.'
  ],
  [
    '< Ferry to the mainland is {cancelled|an hour late|full}.',
    '> {Take my car|Stay the night then|Try the mail boat}.',
    '< You are {kind|a saint|going to regret that}. ❤️'
  ]
];

const YARD: Exchange[] = [
  [
    '< Tide is at {5:40|6:10|7:25|8:05}. {Gate|Slip|Crane} free until {nine|ten|noon}.',
    '> {Good|We need an hour|I send Sunniva}.'
  ],
  [
    '< The {pump|winch|compressor} is {down|making that noise|in pieces} again.',
    '> {How long|Do you need parts|Oh no}?',
    '< {A day|Until Ottar finds the seal|Ask the pump}.'
  ],
  [
    '> Bill for {February|the mooring|the antifouling} is paid.',
    '< Seen. {Thank you|Good|The bank is quicker than you}.'
  ],
  [
    '< Somebody parked across the {slip|crane track|gate}.',
    '> {Blue van|Grey estate|The one with the roof box}?',
    '< {Yes|That one|Gone now}.',
    '> I will have a word.'
  ],
  [
    '< We caulk on {Monday|Tuesday|Friday}. Want to see how it is done?',
    '> Yes! What do I bring?',
    '< {Old clothes|Patience|Earplugs and cake}.'
  ],
  [
    '> Did the {oak|larch|copper nails} come?',
    '< {Half of it|On the noon boat|Wrong size}. {I send it back|I make it work|Do not ask}.'
  ],
  [
    '< Survey of the {stem|sternpost|deck beams} is done. {Sound|Soft in two places|Better than you}.',
    '> Put it in writing, please.',
    '< {Everything always in writing with you|You will have it on Friday}.'
  ]
];

const GREEK: Exchange[] = [
  [
    '< Καλημέρα! Η {αντλία|τσιμούχα|προπέλα} έρχεται την {Τρίτη|Πέμπτη|Παρασκευή}.',
    '> Thank you Kostas! Same carrier as last time?',
    '< Ναι, {ίδιος|ο ίδιος οδηγός}. {Πλήρωσε όταν φτάσει|Μην ανησυχείς}.'
  ],
  [
    '> How many hours does the gasket need to cure?',
    '< {Δώδεκα|Είκοσι τέσσερις|Οκτώ} ώρες, και όχι λιγότερο. 🔧',
    '> Understood, {12|24|8} it is.'
  ],
  ['< Χρόνια πολλά στο πλήρωμα! {🎂|⚓|🥳}', '> Ευχαριστώ! (I practised that.)']
];

const JAPANESE: Exchange[] = [
  [
    '< こんにちは。ワニスを{二|三|四}缶、{火曜日|金曜日|来週}に発送します。',
    '> Arigatō! We are nearly out.',
    '< {こちらこそ|いつもありがとうございます}。🙏'
  ],
  [
    '> Can the new varnish go over the old one?',
    '< はい、でも{軽く|しっかり}研磨してください。{240|320}番で。',
    '> {240|320} grit, noted.'
  ],
  ['< 写真を見ました。船の色が{とても|本当に}きれいです。', '> It is your varnish!']
];

const ARABIC: Exchange[] = [
  [
    '< صباح الخير إيرين! هل تأتين يوم {الجمعة|السبت|الأحد}؟',
    '> Yes, with the {children|dog|drum}. What shall I bring?',
    '< {لا شيء، فقط نفسك|الخبز من المخبز القديم|قهوة!} 🌿'
  ],
  [
    '< الأولاد يسألون عن {العبّارة|القارب|الفقمة} كل يوم.',
    '> Tell them she is {asleep|having her teeth done|waiting for them}.',
    '< 😂 {حسناً|سأقول لهم}'
  ],
  [
    '> The soup was wonderful. What is in it?',
    '< {كمون وليمون|عدس أحمر|سر العائلة}، {هذا كل شيء|لا تخبري أحداً}.'
  ]
];

const UKRAINIAN: Exchange[] = [
  [
    '< Доброго ранку. Зварювання {керма|палуби|перил} закінчу {завтра|у середу|до вечора}.',
    '> Great, thank you. Do you need more gas?',
    '< {Так, один балон|Ні, вистачає}. 🔥'
  ],
  [
    '> Is the bracket strong enough?',
    '< {Міцніший за мене|Витримає пором}. Не хвилюйся.',
    '> I never worry. Much.'
  ],
  [
    '< {Дощ|Сніг|Вітер} — сьогодні не варю.',
    '> Then come for {soup|coffee|cards}.',
    '< Іду {зараз|о шостій}!'
  ]
];

const CHANDLER: Exchange[] = [
  [
    '< Your {shackles|rope, 14 mm|fenders} came in. I keep them {until Friday|behind the counter|dry}.',
    '> I fetch them {today|on the way home|on Thursday}. Account or cash?',
    '< {Account|Whatever suits|You still owe me for the paint}.'
  ],
  [
    '> Do you have {red lead|tallow|a bilge pump, 24 volt}?',
    '< {One left|On Monday|For you, yes}.',
    '> Put my name on it.'
  ],
  [
    '< Price of {copper|hemp|resin} goes up {again|on the first|nine per cent}. Order before if you can.',
    '> How kind of you to warn me. {Two rolls|Ten kilos|Six litres} then.'
  ]
];

const NOTICES: Exchange[] = [
  [
    '< Your code is {482 119|730 042|115 908|664 271|902 385}. It is valid for 5 minutes. Never share it.'
  ],
  [
    '< Parcel {4417|9062|3358|7120} is at the harbour kiosk. Collect before {Friday|Monday|the 28th}.'
  ],
  [
    '< Tide warning: {0.8|1.1|0.6} m above normal {tonight|tomorrow 04:00|until noon}. Secure small craft.'
  ],
  [
    '< Appointment reminder: {dentist|eye clinic|tyre change}, {Tuesday 09:20|Thursday 14:00|Wednesday 11:40}. Reply C to cancel.'
  ]
];

const COMMITTEE: Exchange[] = [
  [
    '3: Meeting on {Monday|Tuesday|Thursday} at {seven|half past six}, in the sail loft. {Heating is fixed|Bring a chair|Bring a torch}.',
    '> I will be there.',
    '2: {Me too|Late by ten minutes|Only if there is tea}.',
    '4: 👍'
  ],
  [
    '4: Who has the key to the {paint store|tea cupboard|boathouse}?',
    '1: {Hanging where it always hangs|Not me}.',
    '5: In my coat. {Sorry|I bring it tonight} 🙈'
  ],
  [
    '3: Slip fees for {spring|the quarter} stand at {12,400|9,850|14,120}. Two boats are behind.',
    '2: We all know which two.',
    '> Kindly, Ragna.',
    '2: I am always kind.'
  ],
  [
    '5: Children’s sailing: {fourteen|nine|eleven} signed up, {two|three} boats that float.',
    '1: I look at the third {on Saturday|tomorrow|when I look at it}.',
    '5: You are the best when you want to be.'
  ],
  [
    '4: Grant application goes in on {Friday|the 30th}. Please read page {two|seven|four}.',
    '> Read. There is a nought missing in the {second|third} table.',
    '4: Oh no. Thank you!! 😅',
    '3: This is why we have Eirin.'
  ],
  [
    '2: The tea urn is {leaking|dead|haunted}.',
    '3: I put it on the agenda.',
    '2: It has been on the agenda since the {war|flood|old king}.',
    '5: 😂😂'
  ],
  [
    '1: Crane is booked out {all week|Tuesday to Thursday}. No launches.',
    '3: Noted. I tell the {regatta people|harbour office}.'
  ]
];

const CREW: Exchange[] = [
  [
    '2: Who takes {Saturday|the early|the late} shift at the ticket hut?',
    '1: I {can|did last time|could, for cake}.',
    '> Take it, I owe you one.'
  ],
  [
    '3: Двигун {прогрівається|гуде рівно|кашляє}. Все буде добре.',
    '4: Στείλε μου ήχο, {ακούω|περιμένω}.',
    '2: I understood “engine” and “sound”, I think?'
  ],
  [
    '1: {Forty|Sixty-two|Twenty-eight} passengers today, one {goat|wedding cake|tuba}.',
    '2: A goat pays half.',
    '> Only under a metre.'
  ],
  [
    '2: New timetable is up. {Second crossing at 9:10|No Sunday evenings|Last boat 21:40}.',
    '4: Ευχαριστώ!',
    '1: Finally one that a person can read 👏'
  ],
  [
    '> Life jackets: {eleven|four|seven} need new cartridges.',
    '1: I order them with {Ottar|the paint}.',
    '3: Я перевірю решту.'
  ],
  [
    '2: Picture of her in {1961|1974|1958}, from my mother’s tin 💛',
    '1: Look at the {funnel|flag|hats}!',
    '> We should frame that for the launch.'
  ]
];

export interface Talk {
  with: CharacterKey | keyof typeof GROUPS;
  store: 'phone' | 'tablet';
  exchanges: Exchange[];
  /** Exchanges a month, on average. */
  often: number;
}

export const TALKS: Talk[] = [
  { with: 'ragna', store: 'phone', exchanges: FRIENDS, often: 9 },
  { with: 'sunniva', store: 'phone', exchanges: FRIENDS, often: 5 },
  { with: 'halvard', store: 'phone', exchanges: YARD, often: 6 },
  { with: 'yevhen', store: 'phone', exchanges: UKRAINIAN, often: 3 },
  { with: 'layla', store: 'phone', exchanges: ARABIC, often: 4 },
  { with: 'notices', store: 'phone', exchanges: NOTICES, often: 9 },
  { with: 'kostas', store: 'tablet', exchanges: GREEK, often: 3 },
  { with: 'haru', store: 'tablet', exchanges: JAPANESE, often: 2 },
  { with: 'ottar', store: 'tablet', exchanges: CHANDLER, often: 5 },
  { with: 'ingrid', store: 'tablet', exchanges: FRIENDS, often: 4 },
  { with: 'ragna', store: 'tablet', exchanges: FRIENDS, often: 3 },
  { with: 'committee', store: 'tablet', exchanges: COMMITTEE, often: 13 },
  { with: 'crew', store: 'tablet', exchanges: CREW, often: 9 }
];
