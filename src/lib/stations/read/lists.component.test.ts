import assert from 'node:assert/strict';
import { afterEach, test } from 'node:test';
import type { Component } from 'svelte';
import type { CallRow, ContactRow, GapRow } from '../../service/api/protocol';
import { drawn, mounted, pending, type Mounted, type Pending } from '../../testing/mounted.svelte';
import CallList from './CallList.svelte';
import ContactList from './ContactList.svelte';
import FileList from './FileList.svelte';
import GapList from './GapList.svelte';

/** A list of a case: what it asks, a row of it, and what it says when nothing was found. */
interface List {
  component: Component<never>;
  method: 'calls' | 'contacts' | 'files' | 'gaps';
  props: Record<string, unknown>;
  /** An answer with one row that shows the name. */
  answer: (name: string) => unknown;
  none: unknown;
  empty: RegExp;
}

const FILE = {
  ...{ source: 'Phone', state: 'live', labels: [], note: '' },
  ...{ mime: null, bytes: 1, at: null, copies: 0 }
};

const LISTS: List[] = [
  {
    component: CallList as never,
    method: 'calls',
    props: {},
    answer: (name): CallRow[] => [
      {
        ...{ id: name, state: 'live', name, address: '', direction: 'incoming' },
        ...{ day: '2026-03-12', time: '08:55', seconds: 70, certainty: 100, source: 'Phone' }
      }
    ],
    none: [],
    empty: /No call log was found/
  },
  {
    component: ContactList as never,
    method: 'contacts',
    props: { query: '' },
    answer: (name): Partial<ContactRow>[] => [
      { id: name, state: 'live', name, phones: [], emails: [], source: 'Phone' }
    ],
    none: [],
    empty: /No contacts were found/
  },
  {
    component: GapList as never,
    method: 'gaps',
    props: { ongo: () => undefined },
    answer: (reason): GapRow[] => [
      { key: reason, count: 2, name: null, from: '', to: '', goTo: null, reason, source: 'Phone' }
    ],
    none: [],
    empty: /No message is known to be missing/
  },
  {
    component: FileList as never,
    method: 'files',
    props: { facet: 'files', query: '' },
    answer: (path) => ({ rows: [{ ...FILE, key: path, path, name: path }], total: 1 }),
    none: { rows: [], total: 0 },
    empty: /No such files were found/
  }
];

let shown: Mounted<Record<string, unknown>> | null = null;
afterEach(() => shown?.remove());

/** The list in an open case whose answers the test gives. */
function opened({ component, method, props }: List): {
  asked: Pending<unknown>[];
  open: { version: number; failure: string | null };
} {
  const asked: Pending<unknown>[] = [];
  const ask = (): Promise<unknown> => {
    const next = pending();
    asked.push(next);
    return next.answer;
  };
  const desk = { [method]: ask, exhibits: { chosen: () => Promise.resolve(new Set()) } };
  const open = { version: 1, failure: null, desk };
  shown = mounted(component as unknown as Component<Record<string, unknown>>, { open, ...props });
  return { asked, open: shown.props.open as typeof open };
}

for (const list of LISTS) {
  test(`${list.method}: what is asked last is shown, in whatever order the answers come`, async () => {
    const { asked, open } = opened(list);
    open.version = 2;
    await drawn();
    assert.equal(asked.length, 2);
    asked[1]!.come(list.answer('newer'));
    asked[0]!.come(list.answer('older'));
    await drawn();
    assert.match(shown!.text(), /newer/);
    assert.doesNotMatch(shown!.text(), /older/);
  });

  test(`${list.method}: where asking fails the case says why, and what was there stays`, async () => {
    const { asked, open } = opened(list);
    asked[0]!.come(list.answer('kept'));
    await drawn();
    open.version = 2;
    await drawn();
    asked[1]!.fail('the worker is gone');
    await drawn();
    assert.match(open.failure ?? '', /the worker is gone/);
    assert.match(shown!.text(), /kept/);
  });

  test(`${list.method}: where nothing was found it says what to do or why`, async () => {
    const { asked, open } = opened(list);
    asked[0]!.come(list.none);
    await drawn();
    assert.match(shown!.text(), list.empty);
    assert.equal(open.failure, null);
  });
}
