<!-- The axes that all pictures of steps share: lines with their values at the left and below; what is drawn on them is given. -->
<script lang="ts">
  import type { Snippet } from "svelte";
  import { DIGIT } from "../../shared/canvasFonts";
  import LiveLayer from "../../shared/LiveLayer.svelte";
  import type { Palette } from "../../shared/palette";

  /** A value of an axis, and the pixel at which it lies. */
  interface Mark {
    readonly at: number;
    readonly text: string;
  }

  interface Props {
    width: number;
    height: number;
    /** What is seen, for those who do not see it. */
    label: string;
    /** Pixels of the drawn area: its ends to the side, and up and down. */
    sides: readonly [left: number, right: number];
    ends: readonly [top: number, bottom: number];
    across: readonly Mark[];
    up: readonly Mark[];
    children: Snippet;
    /** What moves with the sound, under what is drawn, and over it. */
    under?: Live | undefined;
    over?: Live | undefined;
  }
  type Live = (context: CanvasRenderingContext2D, palette: Palette) => void;

  let { width, height, label, sides, ends, across, up, children, under, over }: Props = $props();
  /** Pixels between two values at least. */
  const GAP = 4;

  type Anchor = "start" | "middle" | "end";

  /** Values below that have room: at the ends they keep inside, and one that would run into that before it is left out. */
  const values = $derived.by(() => {
    const shown: (Mark & { readonly anchor: Anchor })[] = [];
    let taken = -Infinity;
    for (const { at, text } of across) {
      const wide = text.length * DIGIT;
      const anchor = at <= sides[0] ? "start" : at + wide / 2 > width ? "end" : "middle";
      const left = at - { start: 0, middle: wide / 2, end: wide }[anchor];
      if (left < taken) continue;
      shown.push({ at, text, anchor });
      taken = left + wide + GAP;
    }
    return shown;
  });
</script>

<div class="picture">
  {#if under}<LiveLayer {width} {height} paint={under} />{/if}
  <svg {width} {height} role="img" aria-label={label}>
    {#each across as { at, text } (text)}
      <line x1={at} x2={at} y1={ends[0]} y2={ends[1]} />
    {/each}
    {#each values as { at, text, anchor } (text)}
      <text x={at} y={height - 4} text-anchor={anchor}>{text}</text>
    {/each}
    {#each up as { at, text } (text)}
      <line x1={sides[0]} x2={sides[1]} y1={at} y2={at} />
      <text x={sides[0] - 4} y={at + 4} text-anchor="end">{text}</text>
    {/each}
    {@render children()}
  </svg>
  {#if over}<LiveLayer {width} {height} paint={over} />{/if}
</div>

<style>
  .picture {
    position: relative;
    flex: none;
    border: 1px solid var(--w-rule);
    background: var(--w-paper);
  }

  svg {
    position: relative;
    display: block;
  }

  line {
    stroke: var(--w-rule);
  }

  text {
    fill: var(--w-soft);
    font-family: var(--w-mono);
    font-size: 12px;
  }
</style>
