<script lang="ts">
  import type { PlacedLine } from '$lib/service/api/media-api';

  interface Props {
    /** The place that is meant. */
    lat: number;
    lon: number;
    /** Others, to see it by. */
    others?: readonly PlacedLine[];
  }
  const { lat, lon, others = [] }: Props = $props();

  const SIZE = 160;
  /** Degrees of latitude that are 1 km. */
  const KM = 1 / 111.32;
  const narrow = $derived(Math.max(0.05, Math.cos((lat * Math.PI) / 180)));
  /** Half of what is shown, in km: what takes in the nearest half of the others. */
  const reach = $derived.by(() => {
    const far = others.map((one) => distance(one)).filter((km) => km > 0.05 && km < 500);
    far.sort((a, b) => a - b);
    const half = far[Math.floor(far.length / 2)] ?? 1;
    return STEPS.find((km) => km >= half * 1.2) ?? STEPS.at(-1)!;
  });
  const STEPS = [0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];

  function east(x: number): number {
    return ((x - lon) * narrow) / KM;
  }

  function distance(one: { lat: number; lon: number }): number {
    return Math.hypot(east(one.lon), (one.lat - lat) / KM);
  }

  function point(one: { lat: number; lon: number }): [number, number] {
    const scale = SIZE / 2 / reach;
    return [SIZE / 2 + east(one.lon) * scale, SIZE / 2 - ((one.lat - lat) / KM) * scale];
  }

  function degrees(value: number, [plus, minus]: [string, string]): string {
    return `${Math.abs(value).toFixed(5)}° ${value < 0 ? minus : plus}`;
  }
  const shown = $derived(`${degrees(lat, ['N', 'S'])}, ${degrees(lon, ['E', 'W'])}`);
</script>

<figure>
  <svg
    viewBox="0 0 {SIZE} {SIZE}"
    role="img"
    aria-label="Place {shown} among {others.length} others"
  >
    <rect width={SIZE} height={SIZE} class="ground" />
    {#each [0.25, 0.5, 0.75] as part (part)}
      <path d="M{SIZE * part} 0V{SIZE}M0 {SIZE * part}H{SIZE}" class="grid" />
    {/each}
    {#each others as one, i (i)}
      {@const [x, y] = point(one)}
      <circle cx={x} cy={y} r="3" class="other" />
    {/each}
    <path d="M{SIZE / 2} {SIZE / 2 - 9}v18M{SIZE / 2 - 9} {SIZE / 2}h18" class="here" />
    <circle cx={SIZE / 2} cy={SIZE / 2} r="4" class="spot" />
    <path d="M8 {SIZE - 8}h{SIZE / 4}" class="scale" />
    <text x="8" y={SIZE - 12}>{reach / 2} km</text>
    <text x={SIZE - 14} y="13">N</text>
  </svg>
  <figcaption>{shown}</figcaption>
</figure>

<style>
  figure {
    margin: 0;
  }
  svg {
    width: 100%;
    max-width: 200px;
    display: block;
  }
  .ground {
    fill: var(--paper);
    stroke: var(--rule);
  }
  .grid {
    stroke: var(--hair);
    fill: none;
  }
  .other {
    fill: var(--bar);
    opacity: 0.6;
  }
  .here {
    stroke: var(--accent);
    stroke-width: 1.5;
    fill: none;
  }
  .spot {
    fill: var(--accent);
  }
  .scale {
    stroke: var(--ink);
    stroke-width: 2;
  }
  text {
    font: 10px var(--font-plain);
    fill: var(--soft);
  }
  figcaption {
    font: 12px var(--font-code);
    margin-top: 4px;
  }
</style>
