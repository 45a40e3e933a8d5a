import { column, lookUp, type Expression, type ReadingProfile } from '../profile';

/** Values of a raw contact's data rows of one kind; the kind is a row number of `mimetypes`. */
function data(kind: string, take: string): Expression {
  const isKind = {
    value: lookUp('mimetypes', '_id', column('mimetype_id'), column('mimetype')),
    is: [`vnd.android.cursor.item/${kind}`]
  };
  return lookUp('data', 'raw_contact_id', column('_id'), { when: isKind, then: column(take) });
}

/** Contacts as raw contacts, rows of data and a table of their kinds. */
export const rawContacts: ReadingProfile = {
  id: 'raw-contacts',
  title: 'raw contacts',
  needs: {
    raw_contacts: ['_id'],
    data: ['raw_contact_id', 'mimetype_id', 'data1'],
    mimetypes: ['_id', 'mimetype']
  },
  knows: { raw_contacts: ['display_name', 'deleted', 'contact_id'] },
  messages: [],
  contacts: [
    {
      table: 'raw_contacts',
      key: '_id',
      only: [{ value: column('deleted'), not: ['1'] }],
      name: { first: [column('display_name'), data('name', 'data1')] },
      phones: data('phone_v2', 'data1'),
      emails: data('email_v2', 'data1'),
      organisation: data('organization', 'data1'),
      note: data('note', 'data1')
    }
  ]
};

/** Values of a person: property 3 holds telephone numbers, 4 mail addresses. */
function values(property: string): Expression {
  return {
    lookup: {
      table: 'ABMultiValue',
      match: 'record_id',
      from: column('ROWID'),
      where: { column: 'property', is: [property] }
    },
    take: column('value')
  };
}

/** Contacts as persons with a table of their many values. */
export const personValues: ReadingProfile = {
  id: 'person-values',
  title: 'people with values',
  needs: {
    ABPerson: ['First', 'Last'],
    ABMultiValue: ['record_id', 'property', 'value']
  },
  knows: { ABPerson: ['Organization', 'Note', 'Middle', 'Nickname'] },
  messages: [],
  contacts: [
    {
      table: 'ABPerson',
      key: 'ROWID',
      name: {
        first: [
          { joined: { each: [column('First'), column('Middle'), column('Last')] }, by: ' ' },
          column('Nickname')
        ]
      },
      phones: values('3'),
      emails: values('4'),
      organisation: column('Organization'),
      note: column('Note')
    }
  ]
};
