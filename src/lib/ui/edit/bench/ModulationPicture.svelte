<!-- The delays of the voices of a chorus or a flanger over time: left as lines, right dashed. -->
<script lang="ts">
  import { line, scaleLinear } from "d3";
  import { chorusModulation } from "$lib/core/effects/chorus";
  import { flangerModulation } from "$lib/core/effects/flanger";
  import { delayAt } from "$lib/core/effects/modulatedDelay";
  import type { Palette } from "../../shared/palette";
  import { useEditor } from "../../state/editor.svelte";
  import Graph from "./Graph.svelte";
  import type { PanelProps } from "./pictures";
  import { subjectTime } from "./subjectTime";

  let { params, effect, height }: PanelProps = $props();
  const editor = useEditor();
  const { transport, selection, sampleRate } = editor;
  const WIDTH = 260;
  const POINTS = 160;
  const m = $derived(effect === "chorus" ? chorusModulation(params) : flangerModulation(params));
  /** Two movements, of a quick one no less than a quarter of a second. */
  const seconds = $derived(Math.max(0.25, Math.min(20, 2 / m.rateHz)));
  const longest = $derived((m.delaySeconds + m.depthSeconds) * 1000);
  const x = $derived(scaleLinear([0, seconds], [44, WIDTH - 8]));
  const y = $derived(scaleLinear([0, longest * 1.05], [height - 16, 6]));
  const paths = $derived(
    Array.from({ length: m.voices }, (_, voice) =>
      ([0, 1] as const).map((side) => {
        const at = (i: number) => (i / POINTS) * seconds;
        const points = Array.from({ length: POINTS + 1 }, (_, i): [number, number] => [
          x(at(i)),
          y(delayAt(m, voice, side, at(i)) * 1000)
        ]);
        return line()(points) ?? "";
      })
    )
  );
  /** Where the movement stands at the playhead: it counts from the beginning of the sound's recording, or of the timeline. */
  const now = $derived.by(() => {
    if (!subjectTime(editor)) return undefined;
    const { clip } = selection.subject;
    const frame = transport.position - (clip ? clip.start - clip.offset : 0);
    return frame < 0 ? undefined : (frame / sampleRate) % seconds;
  });

  function played(context: CanvasRenderingContext2D, { ink }: Palette): void {
    if (now === undefined) return;
    context.fillStyle = ink;
    context.fillRect(x(now) - 0.75, 0, 1.5, height);
  }
</script>

<Graph
  width={WIDTH}
  {height}
  label="Delay of {m.voices} voice{m.voices === 1 ? '' : 's'} over {seconds.toFixed(
    1
  )} seconds, up to {longest.toFixed(1)} ms"
  sides={[44, WIDTH - 8]}
  ends={[6, height - 16]}
  across={x.ticks(4).map((second) => ({ at: x(second), text: `${second} s` }))}
  up={y.ticks(3).map((ms) => ({ at: y(ms), text: `${ms} ms` }))}
  over={played}
>
  {#each paths as [left, right], voice (voice)}
    <path d={left} />
    <path class="right" d={right} />
  {/each}
</Graph>

<style>
  path {
    fill: none;
    stroke: var(--w-madder);
    stroke-width: 1.5;
  }

  .right {
    stroke: var(--w-slate);
    stroke-dasharray: 4 3;
  }
</style>
