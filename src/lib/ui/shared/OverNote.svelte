<!-- A line of text on a plate, in what lies over a picture. -->
<svelte:options namespace="svg" />

<script lang="ts">
  interface Props {
    /** Pixels from the picture's top left. */
    x: number;
    y: number;
    text: string;
    /** Which colour it speaks in: it tells of itself on ink, or names a line on paper. */
    kind: "note" | "name";
  }

  let { x, y, text, kind }: Props = $props();
  /** Of a letter, at 12 px: IBM Plex Mono's letters are 0.6 em wide. */
  const LETTER = 7.2;
  const SIDE = 6;
</script>

<g class={kind}>
  <rect {x} {y} width={text.length * LETTER + 2 * SIDE} height="20" />
  <text x={x + SIDE} y={y + 14} role={kind === "note" ? "status" : undefined}>{text}</text>
</g>

<style>
  text {
    font: 12px var(--w-mono);
    white-space: pre;
  }

  .note rect {
    fill: var(--w-over);
  }

  .note text {
    fill: var(--w-paper);
  }

  .name rect {
    fill: var(--w-under);
  }

  .name text {
    fill: var(--w-madder);
  }
</style>
