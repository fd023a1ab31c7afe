<!-- Response curve with a point for each band, and the bands as a table. -->
<script lang="ts">
  import { line, scaleLinear, scaleLog } from "d3";
  import { responseDb } from "$lib/core/audio/biquadDesign";
  import { num, isOn, choice, type ParamValue } from "$lib/core/effects/description";
  import { bandUses, EQ_BANDS, eqSections, parametricEq } from "$lib/core/effects/parametricEq";
  import { draggable } from "../../shared/draggable";
  import type { Palette } from "../../shared/palette";
  import { useEditor } from "../../state/editor.svelte";
  import ParamField from "./ParamField.svelte";
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

  let { stepId, params, draft, commit, height, mixed }: PanelProps = $props();
  const editor = useEditor();
  const { sampleRate, analysis, transport } = editor;
  const RANGE = 24;
  let width = $state(500);

  const x = $derived(scaleLog([20, 20000], [28, width - 8]));
  const y = $derived(scaleLinear([-RANGE, RANGE], [height - 14, 6]));
  const level = $derived(scaleLinear([SPECTRUM_LEAST_DB, SPECTRUM_MOST_DB], [height - 14, 6]));
  const trace = $derived(analysis.traceOf(stepId));
  const share = $derived(transport.playing ? playedShare(editor) : undefined);
  function spectra(context: CanvasRenderingContext2D, { slate }: Palette): void {
    if (!trace) return;
    context.fillStyle = context.strokeStyle = slate;
    strokeSpectrum(context, spectrumAt(trace.outSpectra, share), x, level);
    context.globalAlpha = 0.3;
    fillSpectrum(context, spectrumAt(trace.inSpectra, share), x, level);
  }

  const marks = [20, 50, 100, 200, 500, 1000, 2000, 5000, 20000];
  const levels = [-18, -9, 0, 9, 18];
  const bands = Array.from({ length: EQ_BANDS }, (_, i) => i + 1);
  const used = $derived(bands.filter((n) => isOn(params, `on${n}`)));

  const path = $derived.by(() => {
    const sections = eqSections(params, sampleRate);
    const points = Array.from({ length: 240 }, (_, i): [number, number] => {
      const hertz = 20 * 1000 ** (i / 239);
      const db = responseDb(sections, (2 * Math.PI * Math.min(hertz, sampleRate * 0.4999)) / sampleRate);
      return [x(hertz), y(Math.max(-RANGE - 2, Math.min(RANGE + 2, db)))];
    });
    return line()(points) ?? "";
  });

  const byId = new Map(parametricEq.params.map((p) => [p.id, p]));
  const gainOf = (n: number) => (bandUses(choice(params, `type${n}`)).gain ? num(params, `gain${n}`) : 0);

  function pointY(n: number): number {
    return y(gainOf(n));
  }

  let from = { x: 0, y: 0 };
  let change: Record<string, ParamValue> = {};

  function move(n: number, dx: number, dy: number): void {
    const hertz = Math.round(Math.min(20000, Math.max(20, x.invert(from.x + dx))));
    change = { [`freq${n}`]: hertz };
    if (bandUses(choice(params, `type${n}`)).gain) {
      const db = Math.max(-RANGE, Math.min(RANGE, y.invert(from.y + dy)));
      change[`gain${n}`] = Math.round(db * 10) / 10;
    }
    draft(change);
  }
</script>

<div class="eq">
  <div class="graph" bind:clientWidth={width}>
    <Graph
      {width}
      {height}
      label="Frequency response, {used.length} bands on, over the spectrum before the step, filled, and after it, as a thin line"
      sides={[30, width - 8]}
      ends={[6, height - 14]}
      across={marks.map((hertz) => ({ at: x(hertz), text: hertzText(hertz) }))}
      up={levels.map((db) => ({ at: y(db), text: `${db > 0 ? "+" : ""}${db}` }))}
      under={spectra}
    >
      <line class="zero" x1="30" x2={width - 8} y1={y(0)} y2={y(0)} />
      <path d={path} />
    </Graph>
    {#each used as n (n)}
      <div
        class="point number"
        style:left="{x(num(params, `freq${n}`)) - 9}px"
        style:top="{pointY(n) - 9}px"
        aria-hidden="true"
        title="Band {n}: drag to change"
        use:draggable={{
          onstart: () => (from = { x: x(num(params, `freq${n}`)), y: pointY(n) }),
          onmove: (dx, dy) => move(n, dx, dy),
          onend: () => commit(change)
        }}
      >
        {n}
      </div>
    {/each}
  </div>
  <div class="table" role="table" aria-label="Bands">
    <div class="row head soft" role="row">
      {#each ["band", "type", "frequency", "gain", "Q or slope"] as title (title)}<span role="columnheader"
          >{title}</span
        >{/each}
    </div>
    {#each bands as n (n)}
      {@const uses = bandUses(choice(params, `type${n}`))}
      <div class="row" role="row" class:off={!isOn(params, `on${n}`)}>
        {#snippet cell(id: string)}
          {@const param = byId.get(`${id}${n}`)}
          {#if param}
            <ParamField
              compact
              prefix="Band {n}"
              {param}
              value={params[param.id]}
              mixed={mixed.has(param.id)}
              draft={(value) => draft({ [param.id]: value })}
              commit={(value) => commit({ [param.id]: value })}
            />
          {/if}
        {/snippet}
        <span role="cell" class="number band">{@render cell("on")}{n}</span>
        <span role="cell">{@render cell("type")}</span>
        <span role="cell">{@render cell("freq")}</span>
        <span role="cell"
          >{#if uses.gain}{@render cell("gain")}{:else}–{/if}</span
        >
        <span role="cell"
          >{#if uses.slope}{@render cell("slope")}{:else if uses.q}{@render cell("q")}{/if}</span
        >
      </div>
    {/each}
  </div>
</div>

<style>
  .eq {
    display: grid;
    grid-template-columns: minmax(200px, 1fr) 408px;
    gap: 10px;
    min-width: 0;
    min-height: 0;
    flex: 1;
  }

  .graph {
    /* Stays in sight while the bands are scrolled. */
    position: sticky;
    top: 0;
    height: fit-content;
    min-width: 0;
  }

  .zero {
    stroke: var(--w-soft);
  }

  path {
    fill: none;
    stroke: var(--w-madder);
    stroke-width: 2;
  }

  .point {
    position: absolute;
    width: 18px;
    height: 18px;
    border: 1.5px solid var(--w-madder);
    border-radius: 50%;
    box-sizing: border-box;
    background: var(--w-panel);
    font-size: 12px;
    line-height: 15px;
    text-align: center;
    cursor: move;
    touch-action: none;
    user-select: none;
  }

  .table {
    overflow-y: auto;
  }

  .row {
    display: grid;
    grid-template-columns: 40px 92px 76px 76px 100px;
    align-items: center;
    gap: 5px;
    min-height: 22px;
    font-size: 12px;
  }

  .row.head {
    min-height: 16px;
    font-size: 12px;
  }

  .band {
    display: flex;
    align-items: center;
  }

  .row.off {
    color: var(--w-soft);
  }
</style>
