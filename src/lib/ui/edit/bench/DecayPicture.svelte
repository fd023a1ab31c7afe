<!-- How a room or an echo dies away after one click, by the effect's own sound. -->
<script lang="ts">
  import { area, scaleLinear } from "d3";
  import { onDestroy } from "svelte";
  import { effectOf } from "$lib/core/effects/registry";
  import type { DecayCurve } from "$lib/core/effects/decayCurve";
  import DecayWorker from "$lib/playback/decay.worker?worker";
  import type { FromDecay, ToDecay } from "$lib/playback/decay.worker";
  import { useEditor } from "../../state/editor.svelte";
  import Graph from "./Graph.svelte";
  import type { PanelProps } from "./pictures";

  let { params, effect: effectId, height }: PanelProps = $props();
  const { sampleRate } = useEditor();
  const WIDTH = 260;
  const COLUMNS = 226;
  const FLOOR = -70;
  const MOST_SECONDS = 12;
  const WAIT_MS = 80;
  const worker = new DecayWorker();
  let curve = $state.raw<DecayCurve | null>(null);
  let asked = 0;
  worker.onmessage = ({ data }: MessageEvent<FromDecay>) => {
    if (data.id === asked) curve = data;
  };
  onDestroy(() => worker.terminate());

  const seconds = $derived.by(() => {
    const tail = (effectOf(effectId).tail?.(params, sampleRate) ?? 0) / sampleRate;
    return Math.max(0.2, Math.min(MOST_SECONDS, tail));
  });

  $effect(() => {
    const question: ToDecay = {
      id: ++asked,
      effect: effectId,
      params: { ...params },
      sampleRate,
      seconds,
      columns: COLUMNS
    };
    const timer = setTimeout(() => worker.postMessage(question), WAIT_MS);
    return () => clearTimeout(timer);
  });

  const x = $derived(scaleLinear([0, curve?.seconds ?? seconds], [34, WIDTH - 8]));
  const y = $derived(scaleLinear([FLOOR, 0], [height - 16, 6]).clamp(true));
  const path = $derived(
    area<number>()
      .x((_, i) => x(((i + 0.5) / COLUMNS) * (curve?.seconds ?? 1)))
      .y0(y(FLOOR))
      .y1((db) => y(Number.isFinite(db) ? db : FLOOR))(curve?.levels ?? []) ?? ""
  );
</script>

<Graph
  width={WIDTH}
  {height}
  label="Level after one click over {seconds.toFixed(1)} seconds, down to -70 dB"
  sides={[34, WIDTH - 8]}
  ends={[6, height - 16]}
  across={x.ticks(4).map((second) => ({ at: x(second), text: `${second} s` }))}
  up={[-60, -40, -20].map((db) => ({ at: y(db), text: String(db) }))}
>
  <path d={path} />
  <line class="sixty" x1="34" x2={WIDTH - 8} y1={y(-60)} y2={y(-60)} />
</Graph>

<style>
  .sixty {
    stroke: var(--w-soft);
    stroke-dasharray: 4 3;
  }

  path {
    fill: color-mix(in srgb, var(--w-madder) 70%, transparent);
  }
</style>
