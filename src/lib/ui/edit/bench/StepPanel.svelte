<!-- Controls and picture of the chosen step, made from its effect's description. -->
<script lang="ts">
  import { Button, Dropdown, Toggle } from "carbon-components-svelte";
  import { completeParams, effectOf } from "$lib/core/effects/registry";
  import { defaultParams, type Params } from "$lib/core/effects/description";
  import { mixedParams, rowOn, type Row } from "$lib/core/session/together";
  import { draftParams, setParams, switchRows } from "../../state/steps";
  import { useEditor } from "../../state/editor.svelte";
  import ParamField from "./ParamField.svelte";
  import { pictures } from "./pictures";
  import SpanFields from "./SpanFields.svelte";

  const PICTURE_LEAST = 100;
  const PICTURE_MOST = 156;

  let { row }: { row: Row } = $props();
  const editor = useEditor();
  const { analysis } = editor;
  const step = $derived(row.step);
  const mixed = $derived(mixedParams(row));

  const effect = $derived(effectOf(step.effect));
  const params = $derived(completeParams(effect, step.params));
  const learnt = $derived(analysis.learntBy(step.id));
  const found = $derived(learnt && effect.found?.(learnt));
  const picture = $derived(pictures[step.effect]);

  /** The preset chosen in the list, for the moment until it is applied. */
  let chosen = $state<string | undefined>(undefined);

  /** Pixels that the step's picture may take: it is seen whole on a low bench too. */
  let room = $state(PICTURE_MOST);
  const height = $derived(Math.max(PICTURE_LEAST, Math.min(PICTURE_MOST, room - 5)));

  const draft = (change: Params): void => draftParams(editor, row, change);
  const commit = (change: Params): boolean => setParams(editor, row, change);

  function preset(name: string): void {
    const found = effect.presets.find((p) => p.name === name);
    if (found) commit({ ...defaultParams(effect), ...found.params });
    chosen = undefined;
  }
</script>

<section class="panel" aria-label="Controls of {effect.name}">
  <header>
    <h2>{effect.name}</h2>
    <SpanFields {row} name={effect.name} />
    <span class="soft help" title={effect.help}>{effect.help}</span>
    {#if effect.presets.length > 0}
      <span class="presets">
        <Dropdown
          size="xs"
          hideLabel
          portalMenu
          labelText="Preset of {effect.name}"
          label="Preset…"
          items={effect.presets.map((p) => ({ id: p.name, text: p.name }))}
          bind:selectedId={chosen}
          on:select={({ detail }) => preset(String(detail.selectedId))}
        />
      </span>
    {/if}
    <Toggle
      size="sm"
      hideLabel
      labelText="This step"
      labelA="Off"
      labelB="On"
      toggled={rowOn(row) === true}
      on:toggle={({ detail }) => detail.toggled !== (rowOn(row) === true) && switchRows(editor, [row])}
    />
    <Button kind="tertiary" size="small" on:click={() => commit(defaultParams(effect))}>Default</Button>
  </header>
  <div class="body" bind:clientHeight={room}>
    {#if picture}<picture.panel
        stepId={step.id}
        {height}
        {params}
        {draft}
        {commit}
        {learnt}
        {mixed}
        effect={step.effect}
      />{/if}
    {#if !picture?.whole}
      <div class="fields">
        <!-- Above the fields: below them it would be out of sight on a low bench. -->
        {#if found}<p class="found" role="status">{found}</p>{/if}
        {#each effect.params.filter(({ hidden }) => !hidden) as param (param.id)}
          <ParamField
            {param}
            value={params[param.id]}
            mixed={mixed.has(param.id)}
            draft={(value) => draft({ [param.id]: value })}
            commit={(value) => commit({ [param.id]: value })}
          />
        {/each}
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

  h2 {
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

  .presets {
    flex: 0 1 150px;
    min-width: 92px;
  }

  header > :global(.bx--form-item) {
    flex: 0 0 62px;
  }

  .body {
    display: flex;
    flex: 1;
    gap: 14px;
    min-height: 0;
    /* Room for the focus ring of the first row. */
    padding-top: 3px;
    overflow: hidden auto;
  }

  .fields {
    display: grid;
    flex: 1;
    grid-template-columns: repeat(auto-fill, minmax(236px, 1fr));
    align-content: start;
    gap: 2px 20px;
    padding-right: 16px;
  }

  .found {
    grid-column: 1 / -1;
    margin: 0 0 3px;
    padding-left: 8px;
    border-left: 3px solid var(--w-ochre);
    font-size: 12px;
    line-height: 18px;
  }
</style>
