<!-- One parameter: typed value and slider, choice, or switch. Dragging is heard at once and is one undo step. -->
<script lang="ts">
  import { recordingsByName } from "$lib/core/session/lookup";
  import type { Param, ParamValue } from "$lib/core/effects/description";
  import TypedField from "../../shared/TypedField.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import { parseValue, sliderOf, stepped, textOf, valueOfSlider } from "./scales";

  interface Props {
    param: Param;
    value: ParamValue;
    /** Heard while dragging, not kept. */
    draft: (value: ParamValue) => void;
    commit: (value: ParamValue) => boolean;
    /** Group name before the parameter's in accessible names. */
    prefix?: string;
    compact?: boolean;
  }

  let { param, value, draft, commit, prefix = "", compact = false }: Props = $props();
  const { session } = useEditor();
  const name = $derived(prefix ? `${prefix}, ${param.name.toLowerCase()}` : param.name);
</script>

{#if param.kind === "number"}
  <div class="field" class:compact title={param.help}>
    {#if !compact}<span class="label" aria-hidden="true">{param.name}</span>{/if}
    <TypedField
      label={name}
      title={param.help}
      takes="{textOf(param, param.min)} to {textOf(param, param.max)}"
      text={textOf(param, value as number)}
      width={compact ? "74px" : "84px"}
      commit={(text) => {
        const typed = parseValue(param, text);
        return typed !== undefined && commit(typed);
      }}
      step={(direction, fine) => commit(stepped(param, value as number, direction, fine))}
      reset={() => commit(param.default)}
    />
    {#if !compact}
      <input
        type="range"
        min="0"
        max="1000"
        aria-label="{name}, slider"
        aria-valuetext={textOf(param, value as number)}
        value={sliderOf(param, value as number)}
        oninput={(event) => draft(valueOfSlider(param, Number(event.currentTarget.value)))}
        onchange={(event) => commit(valueOfSlider(param, Number(event.currentTarget.value)))}
        ondblclick={() => commit(param.default)}
      />
    {/if}
  </div>
{:else if param.kind === "choice"}
  <div class="field" class:compact title={param.help}>
    {#if !compact}<span class="label" aria-hidden="true">{param.name}</span>{/if}
    <select
      class="typed"
      aria-label={name}
      value={value as string}
      onchange={(event) => commit(event.currentTarget.value)}
    >
      {#each param.choices as choice (choice.value)}<option value={choice.value}>{choice.label}</option
        >{/each}
    </select>
  </div>
{:else if param.kind === "recording"}
  <div class="field" title={param.help}>
    <span class="label" aria-hidden="true">{param.name}</span>
    <select
      class="typed wide"
      aria-label={name}
      value={value as string}
      onchange={(event) => commit(event.currentTarget.value)}
    >
      <option value="">built-in</option>
      {#each recordingsByName(session.shown) as recording (recording.id)}
        <option value={recording.id}>{recording.name}</option>
      {/each}
    </select>
  </div>
{:else if param.kind === "data"}
  <div class="field" title={param.help}>
    <span class="label">{param.name}</span>
    <span class="wide">
      <span class="soft">{value === "" ? "none yet" : "learnt"}</span>
      {#if value !== ""}<button class="plain" onclick={() => commit("")}>Forget</button>{/if}
    </span>
  </div>
{:else}
  <label class="field check" class:compact title={param.help}>
    <input
      type="checkbox"
      aria-label={name}
      checked={value as boolean}
      onchange={(event) => commit(event.currentTarget.checked)}
    />
    {#if !compact}<span>{param.name}</span>{/if}
  </label>
{/if}

<style>
  .field {
    display: grid;
    grid-template-columns: 104px 84px minmax(60px, 1fr);
    align-items: center;
    gap: 6px;
    min-height: 26px;
  }

  .field.compact {
    display: inline-flex;
    min-height: 22px;
  }

  .label,
  .wide {
    font-size: 12px;
  }

  .wide {
    grid-column: 2 / -1;
    min-width: 0;
  }

  .check {
    display: flex;
    grid-template-columns: auto 1fr;
    gap: 6px;
    font-size: 12px;
  }

  input[type="range"] {
    width: 100%;
    min-width: 0;
    height: 16px;
    accent-color: var(--w-slate);
  }

  input[type="checkbox"] {
    width: 15px;
    height: 15px;
    margin: 0;
    accent-color: var(--w-slate);
  }

  select.typed {
    min-width: 84px;
  }

  .field:not(.compact) > select.typed {
    grid-column: 2 / -1;
    justify-self: start;
    max-width: 100%;
  }
</style>
