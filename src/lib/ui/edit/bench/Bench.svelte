<script lang="ts">
  import { sharers } from "$lib/core/session/lookup";
  import { clipState } from "$lib/core/session/clipState";
  import TypedField from "../../shared/TypedField.svelte";
  import { actionOf } from "../../state/actions";
  import { useEditor } from "../../state/editor.svelte";
  import CompareStrip from "./CompareStrip.svelte";
  import FadeFields from "./FadeFields.svelte";
  import Sheet from "./Sheet.svelte";
  import StepPanel from "./StepPanel.svelte";

  const editor = useEditor();
  const { session, selection, analysis, transport } = editor;
  const clip = $derived(selection.clip);
  const step = $derived(clip?.steps.find((s) => s.id === selection.stepId) ?? clip?.steps[0]);
  const others = $derived(clip ? sharers(session.shown, clip) : []);
  const state = $derived(clip ? clipState(clip) : "untreated");
  const steps = $derived(clip?.steps.some((s) => s.on) ?? false);

  $effect(() => analysis.want(clip));
  // Another clip on the bench is heard as it is.
  $effect(() => {
    void selection.clipIds;
    transport.listen = "after";
  });
</script>

<section class="bench" aria-label="Bench">
  {#if !clip}
    <div class="empty">
      <p>
        <strong>The bench is empty.</strong> Select a clip on a track to treat it: steps, fades, before and after,
        render.
      </p>
      <p class="soft">Space plays, Ctrl K finds any action, ? shows all keys.</p>
    </div>
  {:else}
    <div class="strip first">
      <TypedField
        label="Name of the clip"
        takes="1 to 120 characters"
        text={clip.name}
        width="150px"
        commit={(name) => name.trim() !== "" && session.run({ type: "clip.set", clipIds: [clip.id], name })}
      />
      {#if selection.clipIds.length > 1}<span class="soft">and {selection.clipIds.length - 1} more</span>{/if}
      {#if others.length > 0}
        <span
          class="soft"
          title="The same recording: {others
            .map((c) => c.name)
            .join(', ')}. What you do here changes this clip only."
          >used by {others.length} other clip{others.length === 1 ? "" : "s"}</span
        >
      {/if}
      <CompareStrip {clip} />
    </div>
    <div class="strip">
      <FadeFields {clip} />
      <span class="gap"></span>
      {#if state === "stale"}<span class="warn" role="status"
          >The render no longer matches; the chain plays live.</span
        >{/if}
      <button class="plain" onclick={() => actionOf("measure").run(editor)}>Measure…</button>
      <button class="plain" disabled={clip.steps.length === 0} onclick={() => actionOf("preset").run(editor)}
        >Save preset…</button
      >
      <button class="plain" disabled={!clip.render} onclick={() => actionOf("restore").run(editor)}
        >Restore</button
      >
      <button class="plain" disabled={!steps} onclick={() => actionOf("render").run(editor)}
        >{state === "stale" ? "Render again…" : "Render…"}</button
      >
    </div>
    <div class="work">
      <Sheet {clip} />
      {#if step}
        {#key step.id}<StepPanel {clip} {step} />{/key}
      {:else}
        <div class="hint soft">
          <p>
            This clip is untreated. Add a step at the left: type <em>comp</em>, <em>eq</em>, <em>gain</em> or
            <em>lim</em>.
          </p>
          <p>Or apply a saved preset from the shelf.</p>
        </div>
      {/if}
    </div>
  {/if}
</section>

<style>
  .bench {
    display: grid;
    grid-template-rows: auto auto 1fr;
    min-height: 0;
    background: var(--w-panel);
  }

  .strip {
    display: flex;
    align-items: center;
    gap: 10px;
    min-width: 0;
    min-height: 34px;
    padding: 0 10px;
    border-bottom: 1px solid var(--w-rule);
    font-size: 12px;
    white-space: nowrap;
  }

  .first {
    min-height: 38px;
  }

  .first > :global(input) {
    border-color: transparent;
    font-family: var(--w-sans);
    font-size: 14px;
    font-weight: 600;
  }

  .first > :global(input:hover),
  .first > :global(input:focus) {
    border-color: var(--w-rule);
  }

  .gap {
    flex: 1;
  }

  .warn {
    overflow: hidden;
    color: var(--w-madder);
    font-weight: 500;
    text-overflow: ellipsis;
  }

  .work {
    display: grid;
    grid-template-columns: minmax(440px, 40%) 1fr;
    min-height: 0;
  }

  .hint {
    padding: 20px;
    font-size: 13px;
  }

  .empty {
    grid-row: 1 / -1;
    align-self: center;
    justify-self: center;
    text-align: center;
    font-size: 14px;
  }
</style>
