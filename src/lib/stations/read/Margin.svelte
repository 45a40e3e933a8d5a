<script lang="ts">
  import { withDays } from '$lib/day';
  import { page } from '$app/state';
  import { MARKS } from '../../ui/marks';
  import { latest } from '$lib/state/latest';
  import { reading } from '$lib/state/reading.svelte';
  import type { PlacedLine } from '$lib/service/api/media-api';
  import type { LineDetail } from '$lib/service/api/protocol';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import HexBytes from '../../ui/HexBytes.svelte';
  import NoteHere from '../../ui/NoteHere.svelte';
  import PlotOfPlaces from '../../ui/PlotOfPlaces.svelte';
  import RedactHere from './RedactHere.svelte';
  import TipButton from '../../ui/TipButton.svelte';

  interface Props {
    detail: LineDetail | null;
    showBytes: boolean;
    ontoggle: () => void;
    onhide: () => void;
    open: OpenCase;
    /** Place of the line in its conversation. */
    index: number;
    /** Called when a redaction was made or taken back. */
    onredact: () => void;
  }
  const { detail, showBytes, ontoggle, onhide, open, index, onredact }: Props = $props();

  /** Other lines of the conversation that say where they were written, to see a place by. */
  let places = $state.raw<PlacedLine[]>([]);
  const lastPlaces = latest();
  $effect(() => {
    const { correspondent } = reading;
    if (!detail?.message.location || correspondent === null) return;
    lastPlaces(open.desk.media.places(correspondent), (found) => (places = found)).catch(
      (error: unknown) => (open.failure = `The places could not be read: ${String(error)}`)
    );
  });

  function insideLink({ sourceId, store, message }: LineDetail): string {
    const query = new URLSearchParams({ source: sourceId, path: store, line: message.id });
    return `/case/${page.params.id}/inside?${query}`;
  }

  const word = $derived(
    detail ? MARKS.find(({ state }) => state === detail.message.state)!.word : ''
  );
</script>

<aside aria-label="Details">
  <TipButton class="hide" tip="Hide the details (m)" aria-label="Hide the details" onclick={onhide}
    >×</TipButton
  >
  {#if detail === null}
    <p class="soft">
      Move to a message with <kbd>j</kbd> and <kbd>k</kbd>, or click it: its evidence and certainty
      appear here.
    </p>
  {:else}
    <section class={detail.message.state}>
      <h3>Line {detail.line || 'not yet numbered'}, {word}</h3>
      <div class="certainty">
        <span class="figure">{detail.message.certainty}</span>
        <div class="bar" role="img" aria-label="Certainty {detail.message.certainty} of 100">
          <i style:width="{detail.message.certainty}%"></i>
        </div>
      </div>
      <ul>
        {#each detail.message.reasons as reason, i (i)}<li>{reason}</li>{/each}
      </ul>
    </section>
    <section>
      <h3>Sent by</h3>
      <p>
        {detail.sender}{#if detail.address && detail.address !== detail.sender}<span class="soft"
            >, {detail.address}</span
          >{/if}<br />{withDays(detail.sent)}
      </p>
      {#if detail.delivered}<p class="soft">delivered {withDays(detail.delivered)}</p>{/if}
      {#if detail.read}<p class="soft">read {withDays(detail.read)}</p>{/if}
    </section>
    <section>
      <h3>
        {detail.proofs.length > 1 ? `Evidence, ${detail.proofs.length} locations` : 'Evidence'}
      </h3>
      {#each detail.proofs as { proof, text, bytes }, i (i)}
        <p class="mono soft place">{text}</p>
        {#if bytes === null}
          <p class="soft">The file is not kept in this browser, so its bytes cannot be shown.</p>
        {:else if showBytes || i === 0}
          <HexBytes
            {bytes}
            offset={proof.offset}
            rows={showBytes ? 6 : 4}
            rebuilt={proof.method === 'free-block' &&
            detail.message.reasons.some((r) => r.includes('rebuilt'))
              ? 4
              : 0}
          />
        {/if}
      {/each}
      <button class="action" onclick={ontoggle} aria-pressed={showBytes}
        >{showBytes ? 'Fewer bytes' : 'More bytes'}</button
      > <kbd>p</kbd>
      {#if detail.proofs.some(({ proof }) => proof.page !== null)}
        <a class="action" href={insideLink(detail)}>Look inside</a>
      {/if}
    </section>
    {#if detail.message.location}
      {@const { lat, lon, label } = detail.message.location}
      <section>
        <h3>Place</h3>
        {#if label}<p>{label}</p>{/if}
        <PlotOfPlaces
          {lat}
          {lon}
          others={places.filter(({ message }) => message !== detail.message.id)}
        />
      </section>
    {/if}
    <NoteHere {open} of={detail.message.id} kind="line" onchange={onredact} />
    <RedactHere {open} {detail} {index} onchange={onredact} />
    <section>
      <h3>Found in</h3>
      <p>{detail.source}<br /><span class="mono soft">{detail.store}</span></p>
      {#each detail.also as other, i (i)}<p class="soft">also in {other}</p>{/each}
    </section>
  {/if}
</aside>

<style>
  aside {
    border-left: 1px solid var(--rule);
    padding: 14px 18px;
    overflow: auto;
    min-height: 0;
  }
  h3 {
    font: 600 12px var(--font-plain);
    color: var(--soft);
    margin: 14px 0 5px;
    letter-spacing: 0.2px;
  }
  section:first-child h3 {
    margin-top: 0;
  }
  p {
    margin: 0 0 2px;
    overflow-wrap: anywhere;
  }
  ul {
    margin: 4px 0 0;
    padding-left: 16px;
    list-style: disc;
  }
  aside :global(.hide) {
    float: right;
    cursor: pointer;
    color: var(--soft);
    font-size: 18px;
    line-height: 1;
    padding: 0 4px;
  }
  .certainty {
    display: flex;
    align-items: center;
    gap: 10px;
  }
  .figure {
    font: 600 22px var(--font-text);
  }
  .bar {
    flex: 1;
    height: 6px;
    background: var(--hair);
  }
  .bar i {
    display: block;
    height: 6px;
    background: var(--tone);
  }
  .place {
    margin: 6px 0;
  }
  .action {
    margin-top: 9px;
    padding: 3px 10px;
    display: inline-block;
    text-decoration: none;
  }
</style>
