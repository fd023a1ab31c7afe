<!-- Which part of the sound a step treats: typed, taken from the range, or all of it. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { SPAN_EDGE_MS } from "$lib/core/effects/span";
  import { spansDiffer, type Row } from "$lib/core/session/together";
  import { programmeEnd } from "$lib/core/session/lookup";
  import { spanOrigin, spanWithin } from "$lib/core/session/spans";
  import { formatTime, parseTime } from "$lib/core/units/time";
  import TypedField from "../../shared/TypedField.svelte";
  import { treatAll, treatRange } from "../../state/steps";
  import { useEditor } from "../../state/editor.svelte";

  let { row, name }: { row: Row; name: string } = $props();
  const editor = useEditor();
  const { session, selection } = editor;

  const EDGES = [
    { edge: "from", verb: "begins", takes: "a time before its end" },
    { edge: "to", verb: "ends", takes: "a time behind its beginning" }
  ] as const;
  const owner = $derived(row.places[0].owner);
  const step = $derived(row.step);
  /** Of several clips they lie in each clip's own sound: typed times are for one. */
  const many = $derived(row.places.length > 1);
  const span = $derived(step.span);
  /** Spans of clips lie on their recording; people read the timeline. */
  const origin = $derived(spanOrigin(session.shown, owner));
  const within = $derived(selection.range && spanWithin(session.shown, owner, selection.range));

  const shown = (frame: number) => formatTime((frame - origin) / editor.sampleRate);

  function take(edge: "from" | "to", text: string): boolean {
    const seconds = parseTime(text);
    if (seconds === undefined || !span) return false;
    const frame = Math.round(seconds * editor.sampleRate) + origin;
    const next = { ...span, [edge]: frame };
    if (frame < 0 || next.to <= next.from) return false;
    return session.run({ type: "span.trim", owner, stepId: step.id, [edge]: frame });
  }

  function blend(text: string): boolean {
    const ms = Number(text.replace(/ms$/, "").trim().replace(",", "."));
    if (!Number.isFinite(ms) || text.trim() === "" || ms < 0 || ms > 500) return false;
    return session.run({ type: "span.trim", owner, stepId: step.id, edgeMs: ms });
  }

  function nudge(direction: 1 | -1, fine: boolean): void {
    const by = direction * Math.round((fine ? 0.001 : 0.01) * editor.sampleRate);
    session.run({ type: "span.move", owner, stepId: step.id, by });
  }

  /** All of the sound as a span, to be trimmed by typing. */
  function begin(): void {
    const { shown } = session;
    const clip = owner.table === "clips" ? shown.get("clips", owner.id) : undefined;
    const recording = owner.table === "recordings" ? shown.get("recordings", owner.id) : undefined;
    const span = clip
      ? { from: clip.offset, to: clip.offset + clip.length }
      : { from: 0, to: recording?.frames ?? Math.max(programmeEnd(shown), editor.sampleRate) };
    session.run({ type: "step.set", owner, stepId: step.id, span });
  }
</script>

<div class="span" role="group" aria-label="Span of {name}">
  {#if many}
    <span class="soft">{spansDiffer(row) ? "parts that differ" : span ? "a part of each" : ""}</span>
    {#if within}<Button
        kind="tertiary"
        size="small"
        title="Treat what lies in the selected range of each clip"
        on:click={() => treatRange(editor, row)}>Only the range</Button
      >{/if}
    {#if span || spansDiffer(row)}<Button
        kind="tertiary"
        size="small"
        title="Treat all of each sound"
        on:click={() => treatAll(editor, row)}>All</Button
      >{/if}
  {:else if span}
    {#each EDGES as { edge, verb, takes } (edge)}
      {#if edge === "to"}<span class="soft">–</span>{/if}
      <TypedField
        label="Span of {name} {verb}"
        {takes}
        title="Where it {verb}; arrow keys move the whole span"
        text={shown(span[edge])}
        width="76px"
        commit={(text) => take(edge, text)}
        step={nudge}
      />
    {/each}
    <span class="soft">blend</span>
    <TypedField
      label="Blend of {name}"
      takes="0 to 500 ms"
      title="Length of the blending at both ends; double click is {SPAN_EDGE_MS} ms"
      text="{span.edgeMs ?? SPAN_EDGE_MS} ms"
      width="52px"
      commit={blend}
      reset={() => blend(String(SPAN_EDGE_MS))}
    />
    {#if within}<Button
        kind="tertiary"
        size="small"
        title="Treat the selected range instead"
        on:click={() => treatRange(editor, row)}>Range</Button
      >{/if}
    <Button kind="tertiary" size="small" title="Treat all of the sound" on:click={() => treatAll(editor, row)}
      >All</Button
    >
  {:else}
    {#if within}
      <Button
        kind="tertiary"
        size="small"
        title="Treat the selected range only, without a cut"
        on:click={() => treatRange(editor, row)}>Only the range</Button
      >
    {:else}
      <Button
        kind="tertiary"
        size="small"
        title="Treat a part only: type where it begins and ends, or select a range first"
        on:click={begin}>A part…</Button
      >
    {/if}
  {/if}
</div>

<style>
  .span {
    display: flex;
    align-items: center;
    gap: 4px;
    flex: none;
    font-size: 12px;
    white-space: nowrap;
  }
</style>
