<!-- The chain's steps, one row each, with the level measured after every step. -->
<script lang="ts">
  import Close from "carbon-icons-svelte/lib/Close.svelte";
  import Draggable from "carbon-icons-svelte/lib/Draggable.svelte";
  import { dndzone, type DndEvent } from "svelte-dnd-action";
  import { completeParams, effectOf } from "$lib/core/effects/registry";
  import type { Measurement } from "$lib/core/measure/meter";
  import { clipState, renderedSteps } from "$lib/core/session/clipState";
  import type { OwnerTable } from "$lib/core/session/owners";
  import type { Step } from "$lib/core/session/schema";
  import { spanOrigin } from "$lib/core/session/spans";
  import { formatDb } from "$lib/core/units/decibels";
  import { formatTime } from "$lib/core/units/time";
  import { moveStep, removeStep, switchStep } from "../../state/editing";
  import { useEditor } from "../../state/editor.svelte";
  import type { Subject } from "../../state/selection.svelte";
  import AddStep from "./AddStep.svelte";
  import OwnShape from "./OwnShape.svelte";

  let { subject }: { subject: Subject } = $props();
  const editor = useEditor();
  const { session, selection, analysis, sampleRate } = editor;

  const owner = $derived(subject.owner);
  const chain = $derived(subject.steps);
  const SOURCES: Record<OwnerTable, string> = {
    clips: "the recording",
    recordings: "the file",
    tracks: "the track's clips",
    project: "all tracks"
  };

  // While a row is being dragged, the order that its place would give.
  let dragged = $state.raw<Step[] | null>(null);
  const rows = $derived(dragged ?? [...chain]);
  const rendered = $derived(subject.clip ? renderedSteps(subject.clip) : 0);
  const stale = $derived(subject.clip ? clipState(subject.clip) === "stale" : false);

  const start = $derived(analysis.start);
  const origin = $derived(spanOrigin(session.shown, owner));

  function spanText({ span }: Step): string {
    if (!span) return "all";
    const at = (frame: number) => formatTime((frame - origin) / sampleRate, 1);
    return `${at(span.from)}–${at(span.to)}`;
  }

  function before(index: number): Measurement | undefined {
    for (let i = index - 1; i >= 0; i--) {
      const found = analysis.afterStep(chain[i].id);
      if (found) return found;
    }
    return start;
  }

  function loudness(m: Measurement | undefined): string {
    return m ? formatDb(m.integratedLufs) : analysis.progress < 1 ? "…" : "";
  }

  function change(a: Measurement | undefined, b: Measurement | undefined): string {
    if (!a || !b || !Number.isFinite(a.integratedLufs) || !Number.isFinite(b.integratedLufs)) return "";
    return `${formatDb(b.integratedLufs - a.integratedLufs, 1, true)}`;
  }

  function stateOf(index: number, step: Step): string {
    if (!step.on) return "off";
    if (index < rendered) return "rendered";
    return stale ? "live, render stale" : "live";
  }

  function consider(event: CustomEvent<DndEvent<Step>>): void {
    dragged = event.detail.items;
  }

  function finalize(event: CustomEvent<DndEvent<Step>>): void {
    const { items, info } = event.detail;
    dragged = null;
    moveStep(
      editor,
      info.id,
      items.findIndex((s) => s.id === info.id)
    );
  }

  function onkeydown(event: KeyboardEvent, step: Step, index: number): void {
    if (event.altKey && event.key === "ArrowUp") moveStep(editor, step.id, index - 1);
    else if (event.altKey && event.key === "ArrowDown") moveStep(editor, step.id, index + 1);
    else if (event.key === "Delete" || event.key === "Backspace") removeStep(editor, step.id);
    else if (event.key === "o") switchStep(editor, step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<section
  class="sheet"
  class:parts={chain.some((s) => s.span !== null)}
  aria-label="Sheet: the chain of {subject.name}"
>
  <div class="row head soft">
    <span></span><span>step</span><span class="right">span</span><span class="right">in → out LUFS</span><span
      class="right">dBTP</span
    >
    <span></span><span></span>
  </div>
  <div class="row source">
    <span></span><span class="soft">{SOURCES[owner.table]}</span><span></span>
    <span class="number right">{loudness(start)}</span>
    <span class="number right">{start ? formatDb(start.truePeakDbtp) : ""}</span><span></span><span></span>
  </div>
  <div
    class="steps"
    role="list"
    use:dndzone={{
      items: rows,
      flipDurationMs: 0,
      dropTargetStyle: {},
      zoneTabIndex: -1,
      zoneItemTabIndex: -1,
      type: "steps"
    }}
    onconsider={consider}
    onfinalize={finalize}
  >
    {#each rows as step, index (step.id)}
      {@const after = analysis.afterStep(step.id)}
      {@const effect = effectOf(step.effect)}
      <div
        class="row step"
        class:chosen={selection.stepId === step.id}
        class:off={!step.on}
        role="listitem"
        oncontextmenu={(event) => {
          selection.stepId = step.id;
          editor.offer(event, "step", effect.name);
        }}
      >
        <span class="grip" title="Drag to move; Alt with an arrow key moves it too"
          ><Draggable size={16} /></span
        >
        <button
          class="what"
          data-step={step.id}
          aria-current={selection.stepId === step.id}
          title="Alt ↑ and Alt ↓ move it, O switches it, Delete removes it"
          onclick={() => (selection.stepId = step.id)}
          onkeydown={(event) => onkeydown(event, step, index)}
        >
          <span class="number">{index + 1}</span>
          <strong>{effect.name}</strong>
          <span class="soft">{effect.summary(completeParams(effect, step.params))}</span>
        </button>
        <span
          class="number right extent"
          class:part={step.span !== null}
          title="What it treats: {spanText(step)}">{spanText(step)}</span
        >
        <span class="number right" title={step.on ? `${change(before(index), after)} LU` : "off"}
          >{step.on ? `${loudness(before(index))} → ${loudness(after)}` : "–"}</span
        >
        <span class="number right">{step.on && after ? formatDb(after.truePeakDbtp) : ""}</span>
        <button
          class="bx--btn bx--btn--tertiary bx--btn--sm state {stateOf(index, step)}"
          role="switch"
          aria-checked={step.on}
          aria-label="{effect.name} {step.on ? 'on' : 'off'}"
          title={`${stateOf(index, step)}; click to switch ${step.on ? "off" : "on"}`}
          onclick={() => switchStep(editor, step)}
          >{stateOf(index, step) === "rendered" ? "rendered" : step.on ? "live" : "off"}</button
        >
        <button
          class="bx--btn bx--btn--ghost bx--btn--sm bx--btn--icon-only"
          aria-label="Remove {effect.name}"
          title="Remove"
          onclick={() => removeStep(editor, step.id)}><Close size={16} /></button
        >
      </div>
    {/each}
  </div>
  <AddStep />
  <OwnShape {subject} />
  {#if analysis.progress < 1}
    <div class="measuring soft" role="status">
      measuring levels… <span class="number">{Math.round(analysis.progress * 100)} %</span>
    </div>
  {/if}
</section>

<style>
  .sheet {
    --extent: 26px;
    min-height: 0;
    overflow-y: auto;
    border-right: 1px solid var(--w-rule);
    padding: 4px 0 8px;
  }

  .sheet.parts {
    --extent: 98px;
  }

  .row {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) var(--extent) 108px 40px 58px 24px;
    align-items: center;
    gap: 3px;
    min-height: 27px;
    padding: 0 6px 0 4px;
    font-size: 12px;
  }

  .head {
    min-height: 18px;
    font-size: 12px;
  }

  .source {
    min-height: 22px;
  }

  .right {
    text-align: right;
  }

  .step {
    border-top: 1px solid var(--w-rule);
    background: var(--w-panel);
  }

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

  .step.chosen {
    background: var(--w-select);
    box-shadow: inset 3px 0 0 var(--w-ochre);
    /* Soft letters would be too soft on it. */
    --w-soft: var(--w-ink);
  }

  .step.off .what {
    color: var(--w-soft);
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

  .what .soft {
    overflow: hidden;
    text-overflow: ellipsis;
  }

  .step .state {
    min-height: 20px;
    height: 20px;
    padding: 0 4px;
  }

  .step .state.live {
    border: 1px dashed var(--w-madder);
  }

  .step .state.rendered {
    border: 1px solid var(--w-madder);
    border-bottom-width: 3px;
  }

  .measuring {
    padding: 3px 24px;
    font-size: 12px;
  }
</style>
