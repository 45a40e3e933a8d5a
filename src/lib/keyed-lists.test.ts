import assert from 'node:assert/strict';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { test } from 'node:test';

const SRC = new URL('..', import.meta.url).pathname;

/** Lists of the program's own words, in which nothing comes twice; all that comes from evidence is keyed by its place. */
const OWN_WORDS = new Set(
  `kind state facet key name way sort words fault option format value depth half code item.value
  day.toString() path row.depth option.depth role clock keys part slot least item.key item.index one picker known.id copy.id id side`
    .split(/\s+/)
    .filter((word) => word !== '')
);

function* lists(): Generator<{ file: string; of: string; key: string | null; index: string }> {
  for (const name of readdirSync(SRC, { recursive: true }) as string[]) {
    if (!name.endsWith('.svelte')) continue;
    const text = readFileSync(join(SRC, name), 'utf8');
    for (const [, head] of text.matchAll(/\{#each ((?:[^{}]|\{[^{}]*\})*)\}/g)) {
      const key = /\(([^()]*(?:\([^()]*\))?[^()]*)\)$/.exec(head!.trim())?.[1] ?? null;
      const index = /, (\w+)(?: \(|$)/.exec(head!.trim())?.[1] ?? '';
      yield { file: name, of: head!, key, index };
    }
  }
}

test('no list is keyed by what can come twice: two keys alike would end the page', () => {
  const wrong = [...lists()].filter(
    ({ key, index }) =>
      key !== null &&
      key !== index &&
      !/\.(id|record\.id|key)$|`\$\{/.test(key) &&
      !OWN_WORDS.has(key)
  );
  assert.deepEqual(
    wrong.map(({ file, of }) => `${file}: ${of}`),
    []
  );
});
