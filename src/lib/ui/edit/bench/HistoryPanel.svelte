<!-- Everything that made the clip's sound, from the import on: changed, switched off, replaced, moved, removed, whatever came after. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import type { ResolvedClip } from "$lib/core/session/lookup";
  import { completeParams, effectOf, effects, findEffect } from "$lib/core/effects/registry";
  import { historyOf, type Stage } from "$lib/core/session/processes";
  import { notices } from "../../shared/notices.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { stepText } from "../../state/presetRows";
  import { ProcessChanges } from "../../state/processChanges.svelte";
  import BenchPanel from "./BenchPanel.svelte";
  import ParamField from "./ParamField.svelte";

  let { clip }: { clip: ResolvedClip } = $props();
  const editor = useEditor();
  const { session, selection } = editor;
  const changes = new ProcessChanges(session);
  const history = $derived(historyOf(session.shown, clip));
  const first = $derived(history.stages[0]);
  const start = $derived(session.shown.get("recordings", first?.recordingId ?? clip.recordingId));
  const total = $derived(
    history.stages.reduce((sum, stage) => sum + stage.steps.length, 0) +
      history.chains.reduce((sum, { steps }) => sum + steps.length, 0)
  );
  const sorted = [...effects].sort((a, b) => a.name.localeCompare(b.name));
  /** The process whose settings are open. */
  let open = $state<{ madeId: string; index: number } | null>(null);

  $effect(() => changes.keepTo(history));

  const faultOf = (stage: Stage) =>
    stage.fault ??
    (session.broken.get(stage.recordingId)
      ? `The audio of "${stage.name}" is ${session.broken.get(stage.recordingId)}: it cannot be computed again.`
      : undefined);

  function toggle(stage: Stage, index: number): void {
    open = open?.madeId === stage.madeId && open.index === index ? null : { madeId: stage.madeId, index };
  }

  function moveOwn(index: number, by: 1 | -1): void {
    const moved = changes.moveOwn(history, index, by);
    const owner = { table: "clips", id: clip.id } as const;
    if (moved) session.run({ type: "step.move", owner, stepId: moved.id, before: moved.before });
  }

  function compute(): void {
    changes
      .compute(clip.id)
      .then((job) => notices.news(`${job.title}: what came after is computed again.`))
      .catch((error: unknown) => notices.fault(error));
  }
</script>

{#snippet settings(stage: Stage, index: number)}
  {@const step = changes.of(stage).steps[index]}
  {#if step && findEffect(step.effect)}
    {@const effect = effectOf(step.effect)}
    {@const params = completeParams(effect, step.params)}
    <div class="fields" role="group" aria-label="Settings of {effect.name}">
      {#each effect.params.filter(({ hidden, kind }) => !hidden && kind !== "data") as param (param.id)}
        {@const set = (value: (typeof params)[string]) =>
          changes.change(stage, index, (one) => ({ ...one, params: { ...one.params, [param.id]: value } }))}
        <ParamField
          {param}
          value={params[param.id]}
          draft={set}
          commit={(value) => {
            set(value);
            return true;
          }}
        />
      {/each}
      <label class="replace"
        >Replace by
        <select
          onchange={(event) => {
            changes.replace(stage, index, event.currentTarget.value);
            event.currentTarget.value = "";
          }}
        >
          <option value="">choose…</option>
          {#each sorted as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
        </select></label
      >
    </div>
  {/if}
{/snippet}

<BenchPanel label="History" heading="History of {clip.name}: {total} process{total === 1 ? '' : 'es'}">
  {#snippet fields()}
    {#if changes.count > 0}
      <Button size="small" on:click={compute}>Compute again</Button>
      <Button kind="tertiary" size="small" on:click={() => changes.forget()}>Forget changes</Button>
    {/if}
  {/snippet}
  <ol aria-label="Processes">
    <li class="head">
      {#if history.before}{history.before}; what lies before cannot be told{:else}Import of {start?.about
          ?.file ??
          start?.name ??
          "a recording"}{/if}
    </li>
    {#each history.stages as stage (stage.madeId)}
      {@const fault = faultOf(stage)}
      {@const { steps, below } = changes.of(stage)}
      <li class="head">
        {stage.name}, rendered{changes.isChanged(stage) ? " (changed, not computed yet)" : ""}
        {#if fault}<span class="fault">{fault}</span>{/if}
      </li>
      {#each steps as step, i (i)}
        <li class="process" class:off={!step.on}>
          <input
            type="checkbox"
            aria-label="{stepText(step.effect, step.params)}: on"
            checked={step.on}
            disabled={fault !== undefined}
            onchange={() => changes.change(stage, i, (one) => ({ ...one, on: !one.on }))}
          />
          <button
            class="text"
            aria-expanded={open?.madeId === stage.madeId && open.index === i}
            disabled={fault !== undefined}
            onclick={() => toggle(stage, i)}
            >{stepText(step.effect, step.params)}{i < below ? ", on the recording" : ""}{step.span
              ? ", a part"
              : ""}</button
          >
          <button
            class="act"
            aria-label="Earlier: {stepText(step.effect, step.params)}"
            title={i === 0 ? "Before this render, to the end of the one before" : "Earlier"}
            disabled={fault !== undefined || !changes.movable(history, stage, i, -1)}
            onclick={() => changes.move(history, stage, i, -1)}>↑</button
          >
          <button
            class="act"
            aria-label="Later: {stepText(step.effect, step.params)}"
            title={i === steps.length - 1
              ? "Behind this render, to the beginning of the next or of the clip's own chain"
              : "Later"}
            disabled={fault !== undefined || !changes.movable(history, stage, i, 1)}
            onclick={() => changes.move(history, stage, i, 1)}>↓</button
          >
          <button
            class="act"
            aria-label="Remove {stepText(step.effect, step.params)}"
            disabled={fault !== undefined}
            onclick={() => changes.remove(stage, i)}>×</button
          >
        </li>
        {#if open?.madeId === stage.madeId && open.index === i}<li>{@render settings(stage, i)}</li>{/if}
      {/each}
    {/each}
    {#each history.chains as { owner, steps } (owner.table)}
      {@const own = owner.table === "clips"}
      {@const processes = own ? changes.own(history) : steps.map((step) => ({ step, id: step.id }))}
      {#if processes.length > 0}
        <li class="head">
          {own
            ? `The clip's own chain${changes.ownChanged ? " (changed, not computed yet)" : ""}`
            : `The chain of ${history.recording?.name ?? "its recording"}, for all its clips`}
        </li>
        {#each processes as { step, id }, i (i)}
          {@const name = stepText(step.effect, step.params)}
          <li class="process" class:off={!step.on}>
            <input
              type="checkbox"
              aria-label="{name}: on"
              checked={step.on}
              disabled={id === undefined}
              onchange={() => id && session.run({ type: "step.set", owner, stepId: id, on: !step.on })}
            />
            <button
              class="text"
              title="Opens it on the bench"
              disabled={id === undefined}
              onclick={() => {
                if (!own) selection.chooseOwner(owner);
                selection.stepId = id ?? null;
                editor.panel = null;
              }}>{name}{step.span ? ", a part" : ""}</button
            >
            {#if own}
              <button
                class="act"
                aria-label="Earlier: {name}"
                title={i === 0 ? "To the end of the render before" : "Earlier"}
                disabled={!changes.ownMovable(history, i, -1)}
                onclick={() => moveOwn(i, -1)}>↑</button
              >
              <button
                class="act"
                aria-label="Later: {name}"
                title="Later"
                disabled={!changes.ownMovable(history, i, 1)}
                onclick={() => moveOwn(i, 1)}>↓</button
              >
            {/if}
            <button
              class="act"
              aria-label="Remove {name}"
              disabled={id === undefined}
              onclick={() => id && session.run({ type: "step.remove", owner, stepId: id })}>×</button
            >
          </li>
        {/each}
      {/if}
    {/each}
  </ol>
</BenchPanel>

<style>
  ol {
    margin: 0;
    padding: 0;
    list-style: none;
  }

  .head {
    padding: 6px 0 2px;
    color: var(--w-soft);
  }

  .process {
    display: flex;
    align-items: center;
    gap: 6px;
    min-height: 24px;
    border-bottom: 1px solid var(--w-rule);
    /* A long history is laid out where it is in sight. */
    content-visibility: auto;
    contain-intrinsic-height: 24px;
  }

  .text {
    flex: 1;
    min-width: 0;
    padding: 0;
    overflow: hidden;
    border: 0;
    background: none;
    color: inherit;
    font: inherit;
    font-size: 13px;
    text-align: left;
    text-overflow: ellipsis;
    white-space: nowrap;
    cursor: pointer;
  }

  .act {
    width: 22px;
    height: 22px;
    border: 0;
    background: none;
    color: inherit;
    cursor: pointer;
  }

  .act:hover:not(:disabled),
  .text:hover:not(:disabled) {
    background: var(--w-paper);
  }

  .act:disabled {
    opacity: 0.4;
    cursor: default;
  }

  .off .text {
    color: var(--w-soft);
    text-decoration: line-through;
  }

  .fault {
    color: var(--w-madder);
    font-weight: 600;
  }

  .fields {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(236px, 1fr));
    gap: 2px 20px;
    padding: 6px 10px;
    background: var(--w-paper);
  }

  .replace {
    display: flex;
    align-items: center;
    gap: 6px;
  }
</style>
