<!-- The line at what sounds now, in what lies over a picture; nothing where it is not in sight. -->
<svelte:options namespace="svg" />

<script lang="ts">
  interface Props {
    /** Pixels from the picture's left edge. */
    x: number;
    /** Width of the picture in pixels. */
    width: number;
  }

  let { x, width }: Props = $props();
</script>

{#if x >= 0 && x <= width}<line x1={x} x2={x} y2="100%" />{/if}

<style>
  line {
    stroke: var(--w-over);
    stroke-width: 1.5px;
  }
</style>
