<!-- The waveform of a recording, small. -->
<script lang="ts">
  import { OVERVIEW_BINS, OVERVIEW_SCALE, overviewLevel } from "$lib/core/audio/overview";
  import type { Recording } from "$lib/core/session/schema";
  import { notices } from "../../shared/notices.svelte";

  interface Props {
    recording: Pick<Recording, "id" | "frames">;
    sampleRate: number;
    /** Share of it that has been heard; null: it is not playing. */
    heard: number | null;
  }

  let { recording, sampleRate, heard }: Props = $props();
  const WIDTH = 236;
  const HEIGHT = 22;
  let path = $state("");
  let box: SVGSVGElement | undefined = $state();

  async function load(): Promise<void> {
    const { id, frames } = recording;
    const level = Math.max(0, overviewLevel(frames / WIDTH));
    const bins = Math.ceil(frames / OVERVIEW_BINS[level]);
    const answer = await fetch(`/api/recordings/${id}/overview/${sampleRate}/${level}?from=0&bins=${bins}`);
    // Its file may be missing: the shelf says so.
    if (!answer.ok) return;
    const values = new Int16Array(await answer.arrayBuffer());
    const lines: string[] = [];
    for (let x = 0; x < WIDTH; x++) {
      const first = Math.floor((x / WIDTH) * bins);
      const last = Math.max(first + 1, Math.floor(((x + 1) / WIDTH) * bins));
      let [low, high] = [0, 0];
      for (let b = first; b < last; b++) {
        low = Math.min(low, values[2 * b] ?? 0);
        high = Math.max(high, values[2 * b + 1] ?? 0);
      }
      // The square root shows quiet sound beside loud one.
      const y = (v: number) => Math.sign(v) * Math.sqrt(Math.abs(v) / OVERVIEW_SCALE) * (HEIGHT / 2 - 1);
      lines.push(
        `M${x + 0.5} ${(HEIGHT / 2 - y(high)).toFixed(1)}V${(HEIGHT / 2 - y(low) + 0.5).toFixed(1)}`
      );
    }
    path = lines.join("");
  }

  // Long shelves load what is seen.
  $effect(() => {
    if (!box) return;
    const seen = new IntersectionObserver(([entry]) => {
      if (!entry?.isIntersecting || path !== "") return;
      seen.disconnect();
      load().catch((error: unknown) => notices.fault(error));
    });
    seen.observe(box);
    return () => seen.disconnect();
  });
</script>

<svg
  bind:this={box}
  viewBox="0 0 {WIDTH} {HEIGHT}"
  width="100%"
  height={HEIGHT}
  aria-hidden="true"
  preserveAspectRatio="none"
>
  <path d={path} />
  {#if heard !== null}<line x1={heard * WIDTH} x2={heard * WIDTH} y1="0" y2={HEIGHT} />{/if}
</svg>

<style>
  svg {
    display: block;
  }

  path {
    stroke: var(--w-slate);
    stroke-width: 1;
  }

  line {
    stroke: var(--w-madder);
    stroke-width: 2;
  }
</style>
