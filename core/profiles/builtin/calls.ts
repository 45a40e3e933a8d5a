import { column, type ReadingProfile } from '../profile';

/** A call log in one table: number, time in milliseconds, seconds, and a kind from 1 to 7. */
export const callTable: ReadingProfile = {
  id: 'call-table',
  title: 'call table',
  needs: { calls: ['number', 'date', 'duration', 'type'] },
  knows: { calls: ['_id', 'name', 'new', 'geocoded_location', 'countryiso'] },
  messages: [],
  calls: [
    {
      table: 'calls',
      key: '_id',
      at: { value: column('date'), clock: 'milliseconds-1970' },
      seconds: column('duration'),
      address: column('number'),
      name: column('name'),
      direction: {
        value: column('type'),
        // 3 was not taken, 5 refused, 6 blocked; 4 went to the mailbox, 7 was taken elsewhere.
        values: {
          '1': 'incoming',
          '2': 'outgoing',
          '3': 'missed',
          '4': 'missed',
          '5': 'missed',
          '6': 'missed',
          '7': 'incoming'
        },
        otherwise: 'unknown'
      }
    }
  ]
};

/** A call log of an object store: seconds since 2001, and marks for who began and whether it was taken. */
export const callRecords: ReadingProfile = {
  id: 'call-records',
  title: 'call records',
  needs: { ZCALLRECORD: ['Z_PK', 'ZDATE', 'ZDURATION', 'ZORIGINATED', 'ZADDRESS'] },
  knows: { ZCALLRECORD: ['ZANSWERED', 'ZNAME', 'ZUNIQUE_ID', 'ZCALLTYPE'] },
  messages: [],
  calls: [
    {
      table: 'ZCALLRECORD',
      key: 'Z_PK',
      at: { value: column('ZDATE'), clock: 'seconds-2001' },
      seconds: column('ZDURATION'),
      address: column('ZADDRESS'),
      name: column('ZNAME'),
      direction: {
        value: column('ZORIGINATED'),
        values: { '0': 'incoming', '1': 'outgoing' },
        otherwise: 'unknown'
      },
      missed: { value: column('ZANSWERED'), is: ['0'] }
    }
  ]
};

/** An older call log: seconds since 1970 and a sum of flags, of which 1 means that the owner began. */
export const callFlags: ReadingProfile = {
  id: 'call-flags',
  title: 'call table with flags',
  needs: { call: ['address', 'date', 'duration', 'flags'] },
  knows: { call: ['ROWID', 'name', 'country_code'] },
  messages: [],
  calls: [
    {
      table: 'call',
      key: 'ROWID',
      at: { value: column('date'), clock: 'seconds-1970' },
      seconds: column('duration'),
      address: column('address'),
      direction: {
        value: column('flags'),
        values: { '4': 'incoming', '5': 'outgoing', '8': 'missed' },
        otherwise: 'unknown'
      },
      missed: { value: column('duration'), is: ['0'] }
    }
  ]
};
