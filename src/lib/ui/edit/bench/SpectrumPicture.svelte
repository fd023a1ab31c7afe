<!-- The spectrum that comes to a step, filled, and the one that leaves it, as a line; of a noise reduction the noise that it takes. -->
<script lang="ts">
  import { scaleLinear, scaleLog } from "d3";
  import { powerAtRate, profileFromText } from "$lib/core/effects/noiseProfile";
  import { bandHertz } from "$lib/core/measure/spectrumColumns";
  import type { Palette } from "../../shared/palette";
  import { useEditor } from "../../state/editor.svelte";
  import Graph from "./Graph.svelte";
  import { hertzText } from "./scales";
  import type { PanelProps } from "./pictures";
  import {
    fillSpectrum,
    SPECTRUM_LEAST_DB,
    SPECTRUM_MOST_DB,
    spectrumAt,
    strokeSpectrum
  } from "./spectraPictures";
  import { playedShare } from "./subjectTime";

  let { stepId, params, learnt, height }: PanelProps = $props();
  const editor = useEditor();
  const { analysis, transport, sampleRate } = editor;
  const WIDTH = 270;
  const x = scaleLog([20, 20000], [34, WIDTH - 8]);
  const y = $derived(scaleLinear([SPECTRUM_LEAST_DB, SPECTRUM_MOST_DB], [height - 16, 6]));

  const trace = $derived(analysis.traceOf(stepId));
  const share = $derived(transport.playing ? playedShare(editor) : undefined);
  const before = $derived(trace && spectrumAt(trace.inSpectra, share));
  const after = $derived(trace && spectrumAt(trace.outSpectra, share));

  /** The noise that a reduction knows, in the measure of the spectra. */
  const noise = $derived.by(() => {
    const text = params.source === "carried" && params.profile !== "" ? params.profile : learnt?.profile;
    if (typeof text !== "string" || text === "" || !before) return undefined;
    const power = powerAtRate(profileFromText(text), sampleRate);
    const size = 2 * (power.length - 1);
    const perBin = sampleRate / size;
    // A profile is power by the window's energy (3/8 of its length for Hann), a spectrum by that of a full-scale sine.
    const scale = (0.375 * size) / (2 * (size / 4) ** 2);
    return before.map((_, band) => {
      const bin = Math.min(power.length - 1, Math.round(bandHertz(band, before.length) / perBin));
      return 10 * Math.log10(power[bin] * scale + 1e-20);
    });
  });

  function spectra(context: CanvasRenderingContext2D, { slate, madder, ink }: Palette): void {
    if (!before || !after) return;
    context.fillStyle = slate;
    context.globalAlpha = 0.45;
    fillSpectrum(context, before, x, y);
    context.globalAlpha = 1;
    context.strokeStyle = madder;
    context.lineWidth = 1.5;
    strokeSpectrum(context, after, x, y);
    if (!noise) return;
    context.strokeStyle = ink;
    context.lineWidth = 1;
    context.setLineDash([4, 3]);
    strokeSpectrum(context, noise, x, y);
  }
</script>

<Graph
  width={WIDTH}
  {height}
  label="Spectrum before the step, filled, and after it, as a line{noise
    ? '; the noise that is known, dashed'
    : ''}"
  sides={[34, WIDTH - 8]}
  ends={[6, height - 16]}
  across={[20, 100, 1000, 10000].map((hertz) => ({ at: x(hertz), text: hertzText(hertz) }))}
  up={[-80, -60, -40, -20].map((db) => ({ at: y(db), text: String(db) }))}
  over={spectra}
>
  {#if !trace}<text x={WIDTH / 2} y={height / 2} text-anchor="middle"
      >{analysis.progress < 1 ? "listening…" : "not heard"}</text
    >{/if}
</Graph>

<style>
  text {
    fill: var(--w-soft);
    font-family: var(--w-mono);
    font-size: 12px;
  }
</style>
