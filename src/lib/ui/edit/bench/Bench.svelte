<!-- What is selected is treated here: a clip, a track, a recording, and with nothing selected the mix. -->
<script lang="ts">
  import { sharers } from "$lib/core/session/lookup";
  import { clipState } from "$lib/core/session/clipState";
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import TypedField from "../../shared/TypedField.svelte";
  import { actionOf } from "../../state/actions";
  import { useEditor } from "../../state/editor.svelte";
  import CompareStrip from "./CompareStrip.svelte";
  import FadeFields from "./FadeFields.svelte";
  import OwnerTitle from "./OwnerTitle.svelte";
  import Sheet from "./Sheet.svelte";
  import StepPanel from "./StepPanel.svelte";

  const editor = useEditor();
  const { session, selection, analysis, transport } = editor;
  const subject = $derived(selection.subject);
  const clip = $derived(subject.clip);
  const owner = $derived(subject.owner);
  const step = $derived(subject.steps.find((s) => s.id === selection.stepId) ?? subject.steps[0]);
  const others = $derived(clip ? sharers(session.shown, clip) : []);
  const linked = $derived(clip?.chain ? session.shown.uses("chains", clip.chain) - 1 : 0);
  const state = $derived(clip ? clipState(clip) : "untreated");
  const live = $derived(clip?.steps.some((s) => s.on) ?? false);

  $effect(() => analysis.want(subject));
  // Another sound on the bench is heard as it is.
  $effect(() => {
    void owner.table;
    void owner.id;
    transport.listen = "after";
  });

  function setMixGain(text: string): boolean {
    const gainDb = parseDb(text);
    return gainDb !== undefined && gainDb >= -96 && gainDb <= 48 && session.run({ type: "mix.set", gainDb });
  }
</script>

<section class="bench" id="bench" aria-label="Bench">
  <div class="strip first">
    {#if clip}
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
      {#if linked > 0}
        <span class="warn">shares its chain with {linked} other{linked === 1 ? "" : "s"}</span>
      {/if}
    {:else}
      <OwnerTitle {owner} name={subject.name} />
    {/if}
    <CompareStrip {subject} />
  </div>
  <div class="strip">
    {#if clip}
      <FadeFields {clip} />
    {:else if owner.table === "project"}
      <span class="soft">Output gain</span>
      <TypedField
        label="Gain of the mix in dB"
        takes="-96 to 48 dB"
        title="Gain behind the mix's chain; double click is 0"
        text={`${formatDb(session.shown.project.mix.gainDb, 1, true)} dB`}
        width="68px"
        commit={setMixGain}
        reset={() => setMixGain("0")}
      />
      <span class="soft">Everything is heard through this chain, last of all.</span>
    {:else if owner.table === "tracks"}
      <span class="soft"
        >All clips of the track are heard through this chain, then the track's gain and pan.</span
      >
    {:else}
      <span class="soft">This chain comes first: the clips' windows, chains and fades come after it.</span>
    {/if}
    <span class="gap"></span>
    {#if clip && state === "stale"}<span class="warn" role="status"
        >The render no longer matches; the chain plays live.</span
      >{/if}
    {#if clip}<button class="plain" onclick={() => actionOf("measure").run(editor)}>Measure…</button>{/if}
    <button class="plain" disabled={subject.steps.length === 0} onclick={() => actionOf("preset").run(editor)}
      >Save preset…</button
    >
    {#if clip}
      <button class="plain" disabled={!clip.render} onclick={() => actionOf("restore").run(editor)}
        >Restore</button
      >
      <button class="plain" disabled={!live} onclick={() => actionOf("render").run(editor)}
        >{state === "stale" ? "Render again…" : "Render…"}</button
      >
    {/if}
  </div>
  <div class="work">
    <Sheet {subject} />
    {#if step}
      {#key `${owner.id} ${step.id}`}<StepPanel {owner} {step} />{/key}
    {:else}
      <div class="hint soft">
        <p>
          {clip ? "This clip" : owner.table === "project" ? "The mix" : `"${subject.name}"`} is untreated. Add a
          step at the left: type <em>comp</em>, <em>eq</em>, <em>gain</em> or <em>lim</em>.
        </p>
        <p>
          {#if clip}Or apply a saved preset from the shelf.{:else if owner.table === "project"}
            Select a clip to treat that clip, the head of a track for the track, a recording on the shelf for
            all its clips. Space plays, Ctrl K finds any action, ? shows all keys.
          {:else}Or apply a saved preset from the shelf.{/if}
        </p>
      </div>
    {/if}
  </div>
</section>

<style>
  .bench {
    display: grid;
    grid-template-rows: auto auto 1fr;
    min-height: 0;
    overflow: hidden;
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
</style>
