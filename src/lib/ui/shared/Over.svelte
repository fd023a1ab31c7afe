<!-- What moves over a picture while it plays or is pulled: lines and notes. Shapes of an SVG within a frame too faint to be seen, and none quite
     opaque: the painted bounds stay the same, and the browser paints this alone anew. An element that is moved by a transform or by its place
     has it put all layers of the page together anew with every frame, which costs more than all the rest (`npm run bench`). -->
<script lang="ts">
  import type { Snippet } from "svelte";

  let { children }: { children: Snippet } = $props();
</script>

<svg class="over">
  <rect class="frame" width="100%" height="100%" />
  {@render children()}
</svg>

<style>
  .over {
    position: absolute;
    z-index: 3;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
    --w-over: color-mix(in srgb, var(--w-ink) 98%, transparent);
    --w-under: color-mix(in srgb, var(--w-panel) 98%, transparent);
  }

  .frame {
    fill: none;
    stroke: rgb(0 0 0 / 0.5%);
  }
</style>
