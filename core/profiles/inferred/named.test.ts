import assert from 'node:assert/strict';
import { test } from 'node:test';
import { ROOMS, talk } from '../../tests/chat-schemas';
import { NAMED_SCHEMAS, NAMES } from '../../tests/more-chat-schemas';
import { passOver } from '../../tests/pass';

const DELETED_EACH = 11;
/** Share of deleted messages that come back. Of texts and events apart both must be there still, and pages that were joined are written over. */
const COME_BACK = 0.8;

for (const [n, { label, isNamed, make }] of NAMED_SCHEMAS.entries())
  test(`messages, people and deleted rows come back: ${label}`, async () => {
    const said = talk(400 + n, 600).map((s, i) => ({ ...s, text: `${s.text} ${i}` }));
    const deleted = new Set(said.flatMap((_, i) => (i % DELETED_EACH === 3 ? [i] : [])));
    const { findings, source } = await passOver({ 'chat.db': make(said, deleted) });
    const why = JSON.stringify(source.inside.candidates[0]?.reasons);
    const byText = new Map(findings.messages.map((m) => [m.body, m]));
    const people = new Map(findings.people.map((p) => [p.id, p]));
    const rooms = new Map<string, number>();
    let back = 0;
    for (const [i, s] of said.entries()) {
      const message = byText.get(s.text);
      if (deleted.has(i)) {
        if (message && message.state !== 'live') back++;
        continue;
      }
      assert.ok(message, `"${s.text}" is missing; ${why}`);
      assert.equal(message.state, 'live', label);
      assert.ok(Math.abs(message.sentAt! - s.at) < 1000, `time of ${s.text}; ${why}`);
      assert.equal(message.direction, s.who === 0 ? 'outgoing' : 'incoming', why);
      assert.equal(rooms.get(message.thread) ?? s.room, s.room, `one conversation each; ${why}`);
      rooms.set(message.thread, s.room);
      if (isNamed && s.who !== 0)
        assert.equal(people.get(message.sender!)?.name, NAMES[s.who], `${s.text}; ${why}`);
    }
    assert.equal(rooms.size, ROOMS.length, why);
    assert.ok(back >= deleted.size * COME_BACK, `${back} of ${deleted.size} came back`);
  });
