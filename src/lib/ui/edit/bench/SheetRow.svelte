<!-- A step's row on the sheet: its levels, its switch, what looks wrong with it. -->
<script lang="ts">
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import Draggable from "carbon-icons-svelte/lib/Draggable.svelte";
  import WarningAlt from "carbon-icons-svelte/lib/WarningAlt.svelte";
  import { completeParams, effectOf } from "$lib/core/effects/registry";
  import type { Measurement } from "$lib/core/measure/meter";
  import { spanOrigin } from "$lib/core/session/spans";
  import { mixedParams, rowOn, spansDiffer, type Row } from "$lib/core/session/together";
  import { formatDb } from "$lib/core/units/decibels";
  import { formatTime } from "$lib/core/units/time";
  import { useEditor } from "../../state/editor.svelte";
  import { choiceOf } from "../../state/selection.svelte";
  import { moveRow, removeRows, switchRows } from "../../state/steps";

  interface Props {
    row: Row;
    index: number;
    /** How it is heard: "live", "rendered", "off" … */
    state: string;
    /** Whether its settings are shown. */
    chosen: boolean;
    /** Whether it is chosen besides that one. */
    also: boolean;
    /** Loudness before it and after it. */
    levels: string;
    before: Measurement | undefined;
    after: Measurement | undefined;
    advice: string | undefined;
  }

  let { row, index, state, chosen, also, levels, before, after, advice }: Props = $props();
  const editor = useEditor();
  const { session, selection, analysis, sampleRate } = editor;
  const step = $derived(row.step);
  const treats = $derived(effectOf(step.effect));
  const origin = $derived(spanOrigin(session.shown, selection.subject.owner));

  /** What it treats. */
  const extent = $derived.by(() => {
    const { span } = step;
    if (spansDiffer(row)) return "differ";
    if (!span) return "all";
    const at = (frame: number) => formatTime((frame - origin) / sampleRate, 1);
    return `${at(span.from)}–${at(span.to)}`;
  });

  /** What the step does to the loudness, and what it costs. */
  const does = $derived.by(() => {
    const cost = analysis.stages.find((stage) => stage.stepId === step.id)?.cost;
    const change = after && before ? after.integratedLufs - before.integratedLufs : NaN;
    return [
      ...(Number.isFinite(change) ? [`${formatDb(change, 1, true)} LU`] : []),
      ...(cost === undefined ? [] : [`${(cost * 100).toFixed(1)} % of a core`])
    ].join("; ");
  });

  /** Chooses up to another row, and goes there. */
  function reach(to: number): void {
    const next = selection.rows[to];
    if (!next) return;
    selection.chooseStep(next, "between");
    document.querySelector<HTMLElement>(`[data-step="${next.step.id}"]`)?.focus();
  }

  function onkeydown(event: KeyboardEvent): void {
    const { chosenRows } = selection;
    const rows = chosenRows.includes(row) ? chosenRows : [row];
    if (event.altKey && event.key === "ArrowUp") moveRow(editor, row, index - 1);
    else if (event.altKey && event.key === "ArrowDown") moveRow(editor, row, index + 1);
    else if (event.shiftKey && event.key === "ArrowUp") reach(index - 1);
    else if (event.shiftKey && event.key === "ArrowDown") reach(index + 1);
    else if (event.key === "Delete" || event.key === "Backspace") removeRows(editor, rows);
    else if (event.key === "o") switchRows(editor, rows);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<span class="grip" title="Drag to move; Alt with an arrow key moves it too"><Draggable size={16} /></span>
<button
  class="what"
  class:off={rowOn(row) === false}
  data-step={step.id}
  aria-current={chosen}
  aria-pressed={also || chosen}
  title="Alt ↑ and Alt ↓ move it, O switches it, Delete removes it; Ctrl and Shift choose several"
  onclick={(event) => {
    selection.chooseStep(row, choiceOf(event));
    // Whoever points at a step wants to see it.
    editor.panel = null;
  }}
  {onkeydown}
>
  <span class="number">{index + 1}</span>
  <strong>{treats.name}</strong>
  {#if row.missing > 0}<span class="soft in">in {row.places.length} of {row.places.length + row.missing}</span
    >
  {/if}<span class="soft"
    >{mixedParams(row).size > 0 ? "mixed" : treats.summary(completeParams(treats, step.params))}</span
  >
</button>
<span class="number right extent" class:part={step.span !== null} title="What it treats: {extent}"
  >{extent}</span
>
<span class="number right" title={step.on ? does : "off"}>{step.on ? levels : "–"}</span>
<span class="number right">{step.on && after ? formatDb(after.truePeakDbtp) : ""}</span>
<span class="number right">{step.on && after ? formatDb(after.noiseFloorDbfs, 0) : ""}</span>
<button
  class="bx--btn bx--btn--tertiary bx--btn--sm state {state.split(',')[0]}"
  role="switch"
  aria-checked={rowOn(row) === true}
  aria-label="{treats.name} {rowOn(row) === 'mixed' ? 'mixed' : step.on ? 'on' : 'off'}"
  title={`${state}; click to switch ${rowOn(row) === true ? "off" : "on"}`}
  onclick={() => switchRows(editor, [row])}>{state.split(",")[0]}</button
>
<button
  class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only"
  aria-label="Remove {treats.name}"
  title="Remove"
  onclick={() => removeRows(editor, [row])}><Close size={16} /></button
>
{#if advice}<p class="advice" role="note"><WarningAlt size={16} />{advice}</p>{/if}

<style>
  .extent {
    overflow: hidden;
    color: var(--w-soft);
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .extent.part {
    color: var(--w-madder);
  }

  .grip {
    display: flex;
    color: var(--w-soft);
    cursor: grab;
  }

  .what {
    display: flex;
    gap: 6px;
    min-width: 0;
    padding: 4px 2px;
    border: 0;
    overflow: hidden;
    background: transparent;
    color: var(--w-ink);
    font-size: 12px;
    text-align: left;
    white-space: nowrap;
    cursor: pointer;
  }

  .what.off {
    color: var(--w-soft);
  }

  .what .soft {
    overflow: hidden;
    text-overflow: ellipsis;
  }

  .what .in {
    flex: none;
  }

  .state {
    min-height: 20px;
    height: 20px;
    padding: 0 4px;
  }

  .state.live {
    border: 1px dashed var(--w-madder);
  }

  .state.waits {
    border: 1px dotted var(--w-ink);
  }

  .state.rendered {
    border: 1px solid var(--w-madder);
    border-bottom-width: 3px;
  }

  .advice {
    display: flex;
    grid-column: 2 / -1;
    align-items: flex-start;
    gap: 6px;
    margin: 0 0 5px;
    padding-left: 6px;
    border-left: 3px solid var(--w-ochre);
    font-size: 12px;
    line-height: 16px;
    white-space: normal;
  }

  .advice > :global(svg) {
    flex: none;
  }
</style>
