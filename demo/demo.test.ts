import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import { passOver } from '../core/tests/pass';
import { makeEvidence } from './evidence';
import { MORE_SOURCES } from './more';
import { CHARACTERS } from './people';
import { writeScript } from './script';
import { BEATS } from './story';

const evidence = await makeEvidence();

test('the evidence is the same each time', async () => {
  const sums = (files: typeof evidence): string[] =>
    files.map(({ bytes }) => createHash('sha256').update(bytes).digest('hex'));
  assert.deepEqual(sums(await makeEvidence()), sums(evidence));
});

test('about 3,000 messages over 14 months', () => {
  const script = writeScript();
  assert.ok(Math.abs(script.length - 3000) < 150, String(script.length));
  const months = (script.at(-1)!.at - script[0]!.at) / (30.4 * 86_400_000);
  assert.ok(months > 13.5 && months < 14.5, String(months));
});

test('numbers come from the ranges reserved for fiction', () => {
  for (const { address } of Object.values(CHARACTERS)) {
    assert.match(address, /^(\+447700900\d{3}|\d{5}|[a-z]+@[a-z]+\.example)$/);
  }
});

test('the line that was taken back on the office computer lies in its log', async () => {
  const { files } = MORE_SOURCES.find(({ folder }) => folder === 'computer')!;
  const { findings } = await passOver(files);
  const said = findings.messages.find(({ body }) => body.includes('the oak for half'))!;
  assert.equal(said.state, 'recovered');
  assert.ok(said.proofs.every(({ method }) => method === 'log'));
  assert.equal(findings.messages.find(({ body }) => body === 'Exactly.')?.state, 'live');
});

test('every deleted beat of the story can be recovered, in its place', async () => {
  const bodies = new Map<string, string>();
  for (const { name, bytes } of evidence) {
    const { findings } = await passOver({ [name]: bytes });
    for (const { body, state } of findings.messages) if (!bodies.has(body)) bodies.set(body, state);
  }
  for (const beat of BEATS) {
    assert.equal(bodies.get(beat.text), beat.deleted ? 'recovered' : 'live', beat.text);
  }
});
