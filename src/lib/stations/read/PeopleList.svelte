<script lang="ts">
  import { Combobox, Portal, useListCollection } from '@skeletonlabs/skeleton-svelte';
  import { count, errorText, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { latest } from '$lib/state/latest';
  import { reading } from '$lib/state/reading.svelte';
  import { notices } from '$lib/state/notices';
  import type { JoinRow, PeopleView, PersonCard } from '$lib/service/api/people-api';
  import FilePick from '../../ui/FilePick.svelte';
  import JoinRows from './JoinRows.svelte';
  import RecordTable from './RecordTable.svelte';

  interface Props {
    open: OpenCase;
    query: string;
    ongo: (id: string) => void;
  }
  const { open, query, ongo }: Props = $props();

  let view = $state.raw<PeopleView | null>(null);
  let selected = $state<string | null>(reading.person);
  /** Proposals that are shown; more come as they are decided. */
  const MOST = 50;
  const last = latest();

  $effect(() => {
    void open.version;
    last(open.desk.people.view(), (found) => (view = found)).catch(report);
  });

  function report(error: unknown): void {
    open.failure = `The people of this case could not be read or changed: ${errorText(error)}`;
  }

  function act(work: Promise<unknown>): void {
    work.catch(report);
  }

  const wanted = $derived(query.trim().toLowerCase());
  const digits = $derived(wanted.replace(/\D/g, ''));
  const rows = $derived(
    (view?.people ?? [])
      .filter((card) => wanted === '' || matches(card))
      .map((card) => ({ ...card, state: 'live' as const }))
  );
  const person = $derived(view?.people.find(({ id }) => id === selected) ?? null);

  function matches({ name, addresses }: PersonCard): boolean {
    const known = [name, ...addresses.flatMap((one) => [one.shown, one.name ?? ''])];
    return known.some(
      (text) =>
        text.toLowerCase().includes(wanted) ||
        (digits.length > 2 && text.replace(/\D/g, '').includes(digits))
    );
  }

  async function join({ a, b }: JoinRow): Promise<void> {
    await open.desk.people.join(a, b);
    notices.create({
      title: 'Taken for one person.',
      duration: 10_000,
      action: { label: 'Undo', onClick: () => act(open.desk.people.keepApart(a, b)) }
    });
  }

  async function imported([file]: File[]): Promise<void> {
    if (!file) return;
    try {
      const told = await open.desk.people.importNames(await file.text(), file.name);
      if (told.ok)
        notices.create({
          title: `${plural(told.names, 'name')} imported, ${count(told.used)} of them of people in this case.${
            told.unused > 0
              ? ` ${plural(told.unused, 'entry', 'entries')} without a name or address, or damaged, left out.`
              : ''
          }`
        });
      else open.failure = told.reason;
    } catch (error) {
      report(error);
    }
  }

  let typed = $state('');
  const others = $derived(
    (view?.people ?? [])
      .filter((card) => card.id !== selected)
      .filter((card) => {
        const text = typed.trim().toLowerCase();
        return (
          text === '' ||
          [card.name, ...card.addresses.map(({ shown }) => shown)].some((one) =>
            one.toLowerCase().includes(text)
          )
        );
      })
      .slice(0, 40)
      .map(({ id, name, addresses }) => ({
        value: id,
        label: name,
        detail: addresses.map(({ shown }) => shown).join(', ')
      }))
  );
  const collection = $derived(useListCollection({ items: others }));

  async function joinWith(other: string | undefined): Promise<void> {
    if (!person || other === undefined) return;
    const { id } = person;
    await open.desk.people.join(id, other);
    selected = null;
    typed = '';
  }
</script>

<div class="people-view">
  <section class="list">
    {#if view && view.proposals.length > 0}
      <details class="asks" open>
        <summary
          ><h2>
            {plural(view.proposals.length, 'pair')} of addresses may be one person’s
          </h2></summary
        >
        <div class="scroll">
          <JoinRows joins={view.proposals.slice(0, MOST)}>
            {#snippet actions(one)}
              <button class="action" onclick={() => act(join(one))}>One person</button>
              <button
                class="action quiet"
                onclick={() => act(open.desk.people.keepApart(one.a, one.b))}>Two people</button
              >
            {/snippet}
          </JoinRows>
        </div>
      </details>
    {/if}
    <div class="bar">
      <FilePick
        title="Import names"
        testid="names-file"
        accept=".vcf,.csv,.txt,.tsv,text/vcard,text/csv"
        onpick={imported}
      />
      <span class="soft">from contact cards (.vcf) or a table (.csv)</span>
      {#if view && view.imported > 0}
        <span>{plural(view.imported, 'name')} imported</span>
        <button class="action quiet" onclick={() => act(open.desk.people.forgetNames())}
          >Forget them</button
        >
      {/if}
    </div>
    <RecordTable
      {rows}
      columns={['Name', 'Addresses', 'Known to', 'Messages', '']}
      template="minmax(120px, 1fr) minmax(160px, 1.6fr) minmax(100px, 1fr) 64px 70px"
      sorters={[
        (card) => card.name,
        (card) => card.addresses.length,
        (card) => card.addresses[0]?.sources.join(', ') ?? null,
        (card) => card.lines
      ]}
      label="People"
      glyph="·"
      empty={wanted === ''
        ? 'Nobody was found in this case yet. People appear with the first examination of a source.'
        : 'Nobody matches the search.'}
    >
      {#snippet cells(card)}
        <span role="cell"><bdi>{card.name}</bdi>{card.isOwner ? ' (owner)' : ''}</span>
        <span role="cell" class="soft" title={card.addresses.map(({ shown }) => shown).join(', ')}
          >{card.addresses.map(({ shown }) => shown).join(', ')}</span
        >
        <span role="cell" class="soft"
          >{[...new Set(card.addresses.flatMap(({ sources }) => sources))].join(', ')}</span
        >
        <span role="cell">{count(card.lines)}</span>
        <span role="cell"
          ><button
            class="link"
            aria-pressed={selected === card.id}
            aria-label="Details of {card.name}"
            onclick={() => (selected = selected === card.id ? null : card.id)}>Details</button
          ></span
        >
      {/snippet}
    </RecordTable>
  </section>
  {#if person}
    <aside aria-label="Person">
      <h2><bdi>{person.name}</bdi></h2>
      {#if person.lines > 0}
        <button class="link" onclick={() => ongo(person.id)}
          >Read {plural(person.lines, 'message')}</button
        >
      {/if}
      <h3>
        {person.addresses.length === 1
          ? 'Address'
          : plural(person.addresses.length, 'address', 'addresses')}
      </h3>
      <ul>
        {#each person.addresses as address (address.id)}
          <li>
            <b>{address.shown}</b>
            {#if address.name && address.name !== address.shown}<span class="soft"
                >called {address.name}</span
              >{/if}
            <span class="soft">{address.sources.join(', ')}</span>
            {#if person.addresses.length > 1}
              <button
                class="link"
                aria-label="Remove {address.shown} from this person"
                onclick={() => act(open.desk.people.takeOut(address.id))}>Remove from person</button
              >
            {/if}
          </li>
        {/each}
      </ul>
      {#if person.joins.length > 0}
        <h3>Why they are one person’s</h3>
        <JoinRows joins={person.joins}>
          {#snippet actions(one)}
            <button
              class="action quiet"
              onclick={() => act(open.desk.people.keepApart(one.a, one.b))}>Separate</button
            >
          {/snippet}
        </JoinRows>
      {/if}
      <h3>Join with</h3>
      <Combobox
        {collection}
        inputValue={typed}
        onInputValueChange={(details) => (typed = details.inputValue)}
        onValueChange={(details) => act(joinWith(details.value[0]))}
        value={[]}
        placeholder="Name or number"
      >
        <Combobox.Label class="visually-hidden">Join {person.name} with</Combobox.Label>
        <Combobox.Control class="joining">
          <Combobox.Input class="field" />
        </Combobox.Control>
        <Portal>
          <Combobox.Positioner class="over">
            <Combobox.Content class="pop-sheet options">
              {#each others as item (item.value)}
                <Combobox.Item {item}>
                  <Combobox.ItemText>{item.label}</Combobox.ItemText>
                  <small class="soft">{item.detail}</small>
                </Combobox.Item>
              {/each}
            </Combobox.Content>
          </Combobox.Positioner>
        </Portal>
      </Combobox>
      <p>
        <button
          class="action quiet"
          onclick={() => act(open.desk.people.setOwner(person.id, !person.isOwner))}
          >{person.isOwner ? 'This is not the owner' : 'This is the owner'}</button
        >
      </p>
    </aside>
  {/if}
</div>

<style>
  .people-view {
    flex: 1;
    min-height: 0;
    display: flex;
  }
  .list {
    flex: 1;
    min-width: 0;
    display: flex;
    flex-direction: column;
    background: var(--sheet);
  }
  .asks {
    border-bottom: 1px solid var(--rule);
    padding: 8px 20px;
    background: var(--paper);
  }
  .asks h2 {
    display: inline;
    font-size: 15px;
  }
  summary {
    cursor: pointer;
  }
  .scroll {
    max-height: 30vh;
    overflow: auto;
  }
  .bar {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 10px;
    padding: 8px 20px;
    border-bottom: 1px solid var(--hair);
  }
  aside {
    width: 340px;
    border-left: 1px solid var(--rule);
    padding: 14px 18px;
    overflow: auto;
  }
  aside h2 {
    font-size: 18px;
  }
  h3 {
    font: 600 12px var(--font-plain);
    color: var(--soft);
    margin: 14px 0 4px;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    padding: 5px 0;
    border-bottom: 1px solid var(--hair);
    display: flex;
    flex-wrap: wrap;
    gap: 2px 10px;
    overflow-wrap: anywhere;
  }
  .link {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
  aside :global(.joining) {
    margin-bottom: 12px;
  }
  aside :global(.field) {
    width: 100%;
  }
  @media (max-width: 820px) {
    .people-view {
      flex-direction: column;
    }
    aside {
      width: auto;
      border-left: 0;
      border-top: 1px solid var(--rule);
      max-height: 50vh;
    }
  }
</style>
