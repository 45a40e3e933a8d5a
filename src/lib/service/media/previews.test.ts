import assert from 'node:assert/strict';
import { test } from 'node:test';
import { previewOf as previewWith, textOf } from './previews';

const previewOf = (bytes: Uint8Array<ArrayBuffer>, name: string, mime: string | null) =>
  previewWith(bytes, name, mime, async (own) => new Blob([own]));

const bytesOf = (text: string): Uint8Array<ArrayBuffer> =>
  Uint8Array.from(new TextEncoder().encode(text));

test('texts are read in their encoding, and other bytes are none', () => {
  assert.equal(textOf(bytesOf('приплыли 🛶')), 'приплыли 🛶');
  assert.equal(textOf(Uint8Array.of(0xff, 0xfe, 0x41, 0, 0xe6, 0)), 'Aæ');
  assert.equal(textOf(Uint8Array.of(0xfe, 0xff, 0, 0x41)), 'A');
  assert.equal(textOf(Uint8Array.of(0x42, 0xe6, 0x65)), 'Bæe');
  assert.equal(textOf(Uint8Array.of(0x42, 0, 0xe6)), null);
  assert.equal(textOf(Uint8Array.of(1, 2, 3, 0xe6, 4, 5)), null);
});

test('a calendar is shown as its entries, in the time that they name', async () => {
  const calendar = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    'UID:1',
    'SUMMARY:Launch of the ferry',
    'DTSTART:20260412T090000Z',
    'DTEND:20260412T103000Z',
    'LOCATION:Quay 4',
    'ATTENDEE;CN=Halvard Nystuen:mailto:halvard@yard.example',
    'END:VEVENT',
    'BEGIN:VEVENT',
    'UID:2',
    'SUMMARY:Holiday',
    'DTSTART;VALUE=DATE:20260501',
    'END:VEVENT',
    'END:VCALENDAR'
  ].join('\r\n');
  const preview = await previewOf(bytesOf(calendar), 'plan.ics', null);
  assert.equal(preview.kind, 'events');
  const { events } = preview as Extract<typeof preview, { kind: 'events' }>;
  assert.deepEqual(events[0], {
    summary: 'Launch of the ferry',
    starts: '2026-04-12 09:00 UTC',
    ends: '2026-04-12 10:30 UTC',
    place: 'Quay 4',
    attendees: ['Halvard Nystuen']
  });
  assert.equal(events[1]!.starts, '2026-05-01');
});

test('contact cards are shown as names with their addresses', async () => {
  const card =
    'BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ragna Solheim\r\nTEL:+44 7700 900219\r\nEND:VCARD\r\n';
  const preview = await previewOf(bytesOf(card), 'ragna.vcf', 'text/vcard');
  assert.deepEqual(preview, {
    kind: 'cards',
    cards: [{ name: 'Ragna Solheim', phones: ['+44 7700 900219'], emails: [] }]
  });
});

test('what is seen and heard says whether it was converted', async () => {
  const bytes = bytesOf('a picture');
  const plain = await previewOf(bytes, 'a.jpg', 'image/jpeg');
  assert.ok(plain.kind === 'picture' && !plain.isConverted && plain.blob.type === 'image/jpeg');
  const copy = await previewWith(
    bytes,
    'a.amr',
    'audio/amr',
    async () => new Blob(['longer than before'])
  );
  assert.ok(copy.kind === 'sound' && copy.isConverted);
});

test('what is broken or unknown is shown as what it is', async () => {
  const broken = await previewOf(bytesOf('BEGIN:VCALENDAR\nnonsense'), 'a.ics', null);
  assert.equal(broken.kind, 'text');
  const unknown = await previewOf(Uint8Array.of(0, 1, 2, 3), 'a.bin', null);
  assert.equal(unknown.kind, 'none');
  assert.deepEqual([...(unknown as { head: Uint8Array }).head], [0, 1, 2, 3]);
  const long = await previewOf(bytesOf('a'.repeat(300_000)), 'a.txt', 'text/plain');
  assert.ok(long.kind === 'text' && long.isCut && long.text.length === 200_000);
});
