<!-- The chain's steps, one row each, with the level measured after every step. -->
<script lang="ts">
  import { dndzone, type DndEvent } from "svelte-dnd-action";
  import { mustLearn } from "$lib/core/effects/learning";
  import { effectOf } from "$lib/core/effects/registry";
  import type { Measurement } from "$lib/core/measure/meter";
  import { clipState, renderedSteps } from "$lib/core/session/clipState";
  import { resolveClip } from "$lib/core/session/lookup";
  import type { OwnerTable } from "$lib/core/session/owners";
  import { rowOn, type Row } from "$lib/core/session/together";
  import { formatDb } from "$lib/core/units/decibels";
  import { dropTreatment, pullsTreatment } from "../../state/pulledTreatment";
  import { moveRow } from "../../state/steps";
  import { useEditor } from "../../state/editor.svelte";
  import type { Subject } from "../../state/selection.svelte";
  import AddStep from "./AddStep.svelte";
  import BeyondNote from "./BeyondNote.svelte";
  import OwnShape from "./OwnShape.svelte";
  import SheetRow from "./SheetRow.svelte";

  let { subject }: { subject: Subject } = $props();
  const editor = useEditor();
  const { session, selection, analysis } = editor;

  const owner = $derived(subject.owner);
  /** A row as the list that is dragged knows it. */
  interface Item {
    readonly id: string;
    readonly row: Row;
  }

  const SOURCES: Record<OwnerTable, string> = {
    clips: "the recording",
    recordings: "the file",
    tracks: "the track's clips",
    project: "all tracks"
  };

  // While a row is being dragged, the order that its place would give.
  let dragged = $state.raw<Item[] | null>(null);
  const items = $derived(dragged ?? selection.rows.map((row) => ({ id: row.step.id, row })));
  /** How many of the first steps are heard from a render: in all of the clips. */
  const rendered = $derived.by(() => {
    let least = subject.clip ? renderedSteps(subject.clip) : 0;
    for (const { id } of subject.owners.slice(1)) {
      if (least === 0) break;
      const clip = session.shown.get("clips", id);
      least = Math.min(least, clip ? renderedSteps(resolveClip(session.shown, clip)) : 0);
    }
    return least;
  });
  const stale = $derived(subject.clip ? clipState(subject.clip) === "stale" : false);

  const advice = $derived(new Map(analysis.advice(subject.steps).map(({ stepId, text }) => [stepId, text])));
  const start = $derived(analysis.start);

  /** What comes to a row, in the chain of the first owner. */
  function before(index: number): Measurement | undefined {
    for (let i = index - 1; i >= 0; i--) {
      const found = analysis.afterStep(selection.rows[i].step.id);
      if (found) return found;
    }
    return start;
  }

  function loudness(m: Measurement | undefined): string {
    return m ? formatDb(m.integratedLufs) : analysis.progress < 1 ? "…" : "";
  }

  function stateOf(index: number, row: Row): string {
    const on = rowOn(row);
    if (on === "mixed") return "mixed";
    if (!on) return "off";
    if (index < rendered) return "rendered";
    if (subject.clip && editor.transport.computing.has(subject.clip.id) && mustLearn(row.step))
      return "waits, being computed: the clip sounds as before";
    return stale ? "live, render stale" : "live";
  }

  function consider(event: CustomEvent<DndEvent<Item>>): void {
    dragged = event.detail.items;
  }

  function finalize(event: CustomEvent<DndEvent<Item>>): void {
    const { items: now, info } = event.detail;
    dragged = null;
    const row = selection.rows.find(({ step }) => step.id === info.id);
    if (row)
      moveRow(
        editor,
        row,
        now.findIndex((item) => item.id === info.id)
      );
  }

  /** Whether something is pulled over the sheet that it takes. */
  let receiving = $state(false);

  /** An effect that is let go over a row comes before it. */
  function receive(event: DragEvent): void {
    receiving = false;
    if (!pullsTreatment(event)) return;
    event.preventDefault();
    event.stopPropagation();
    const { target } = event;
    const row = target instanceof Element ? target.closest("[data-row]") : null;
    dropTreatment(editor, event, row ? Number(row.getAttribute("data-row")) : undefined);
  }
</script>

<section
  class="sheet"
  class:parts={selection.rows.some(({ step }) => step.span !== null)}
  class:receiving
  aria-label="Sheet: the chain of {subject.name}"
  ondragover={(event) => {
    if (!pullsTreatment(event)) return;
    event.preventDefault();
    receiving = true;
  }}
  ondragleave={() => (receiving = false)}
  ondrop={receive}
>
  <div class="row head soft">
    <span></span><span>step</span><span class="right">span</span><span class="right"
      >{analysis.partly ? "range, LUFS" : "in → out LUFS"}</span
    ><span class="right">dBTP</span><span class="right" title="Noise floor: the level of the quietest tenth"
      >floor</span
    >
    <span></span><span></span>
  </div>
  <div class="row source">
    <span></span><span class="soft">{SOURCES[owner.table]}</span><span></span>
    <span class="number right">{loudness(start)}</span>
    <span class="number right">{start ? formatDb(start.truePeakDbtp) : ""}</span>
    <span class="number right">{start ? formatDb(start.noiseFloorDbfs, 0) : ""}</span><span></span><span
    ></span>
  </div>
  <div
    class="steps"
    role="list"
    use:dndzone={{
      items,
      flipDurationMs: 0,
      dropTargetStyle: {},
      zoneTabIndex: -1,
      zoneItemTabIndex: -1,
      type: "steps"
    }}
    onconsider={consider}
    onfinalize={finalize}
  >
    {#each items as { id, row }, index (id)}
      {@const { step } = row}
      {@const after = analysis.afterStep(step.id)}
      {@const state = stateOf(index, row)}
      {@const chosen = selection.row?.step.id === id}
      {@const also = !chosen && selection.chosenRows.includes(row)}
      <div
        class="row step"
        class:chosen
        class:also
        role="listitem"
        data-row={index}
        oncontextmenu={(event) => {
          if (!chosen && !also) selection.stepId = step.id;
          editor.offer(event, "step", effectOf(step.effect).name);
        }}
      >
        <SheetRow
          {row}
          {index}
          {state}
          {chosen}
          {also}
          levels="{loudness(before(index))} → {loudness(after)}"
          before={before(index)}
          {after}
          advice={advice.get(id)}
        />
      </div>
    {/each}
  </div>
  <AddStep />
  <OwnShape {subject} />
  <BeyondNote {subject} />
  {#if analysis.cost !== undefined && analysis.progress === 1}
    <div class="measuring soft">
      played live it takes <span class="number"
        >{(analysis.cost * 100).toFixed(analysis.cost < 0.0995 ? 1 : 0)} %</span
      > of a processor core
    </div>
  {/if}
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

  .sheet.receiving {
    box-shadow: inset 0 0 0 2px var(--w-ochre);
  }

  .sheet.parts {
    --extent: 98px;
  }

  .row {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) var(--extent) 108px 40px 36px 58px 24px;
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

  .step.chosen,
  .step.also {
    box-shadow: inset 3px 0 0 var(--w-ochre);
  }

  .step.chosen {
    background: var(--w-select);
    /* Soft letters would be too soft on it. */
    --w-soft: var(--w-ink);
  }

  .measuring {
    padding: 3px 24px;
    font-size: 12px;
  }
</style>
