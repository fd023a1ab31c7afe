<!-- Controls and picture of the chosen step, made from its effect's description. -->
<script lang="ts">
  import { completeParams, effectOf } from "$lib/core/effects/registry";
  import { defaultParams, type Params } from "$lib/core/effects/description";
  import type { Owner } from "$lib/core/session/owners";
  import type { Step } from "$lib/core/session/schema";
  import { useEditor } from "../../state/editor.svelte";
  import ParamField from "./ParamField.svelte";
  import { pictures } from "./pictures";
  import SpanFields from "./SpanFields.svelte";

  let { owner, step }: { owner: Owner; step: Step } = $props();
  const { session, analysis } = useEditor();

  const effect = $derived(effectOf(step.effect));
  const params = $derived(completeParams(effect, step.params));
  const learnt = $derived(analysis.learntBy(step.id));
  const found = $derived(learnt && effect.found?.(learnt));
  const picture = $derived(pictures[step.effect]);

  function draft(change: Params): void {
    session.draft({ type: "step.set", owner, stepId: step.id, params: { ...change } });
  }

  function commit(change: Params): boolean {
    return session.run({ type: "step.set", owner, stepId: step.id, params: { ...change } });
  }

  function preset(name: string): void {
    const chosen = effect.presets.find((p) => p.name === name);
    if (chosen) commit({ ...defaultParams(effect), ...chosen.params });
  }
</script>

<section class="panel" aria-label="Controls of {effect.name}">
  <header>
    <h3>{effect.name}</h3>
    <SpanFields {owner} {step} name={effect.name} />
    <span class="soft help" title={effect.help}>{effect.help}</span>
    <select
      class="typed"
      aria-label="Preset of {effect.name}"
      value=""
      onchange={(event) => preset(event.currentTarget.value)}
    >
      <option value="" disabled>Preset…</option>
      {#each effect.presets as p (p.name)}<option>{p.name}</option>{/each}
    </select>
    <button
      class="plain"
      aria-pressed={step.on}
      onclick={() => session.run({ type: "step.set", owner, stepId: step.id, on: !step.on })}
      >{step.on ? "On" : "Off"}</button
    >
    <button class="plain" onclick={() => commit(defaultParams(effect))}>Default</button>
  </header>
  <div class="body">
    {#if picture}<picture.panel {params} {draft} {commit} {learnt} effect={step.effect} />{/if}
    {#if !picture?.whole}
      <div class="fields">
        {#each effect.params as param (param.id)}
          <ParamField
            {param}
            value={params[param.id]}
            draft={(value) => draft({ [param.id]: value })}
            commit={(value) => commit({ [param.id]: value })}
          />
        {/each}
        {#if found}<p class="found" role="status">{found}</p>{/if}
      </div>
    {/if}
  </div>
</section>

<style>
  .panel {
    display: flex;
    flex-direction: column;
    min-width: 0;
    min-height: 0;
    padding: 6px 10px 4px 12px;
  }

  header {
    display: flex;
    align-items: center;
    gap: 8px;
    margin-bottom: 2px;
  }

  h3 {
    margin: 0;
    font-size: 14px;
    font-weight: 600;
    white-space: nowrap;
  }

  .help {
    flex: 1;
    overflow: hidden;
    font-size: 12px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }

  .body {
    display: flex;
    gap: 14px;
    min-height: 0;
    /* Room for the focus ring of the first row. */
    padding-top: 3px;
    overflow: hidden auto;
  }

  .fields {
    display: grid;
    flex: 1;
    grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
    align-content: start;
    gap: 2px 20px;
    padding-right: 8px;
  }

  .found {
    margin: 4px 0 0;
    padding-left: 8px;
    border-left: 3px solid var(--w-ochre);
    font-size: 12px;
    line-height: 24px;
  }
</style>
