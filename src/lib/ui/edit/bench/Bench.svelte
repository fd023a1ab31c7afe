<!-- What is selected is treated here: a clip, a track, a recording, and with nothing selected the programme. -->
<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { sharers } from "$lib/core/session/lookup";
  import { clipState } from "$lib/core/session/clipState";
  import TypedField from "../../shared/TypedField.svelte";
  import { actionOf } from "../../state/actions";
  import { renderable, restorable } from "../../state/actions/when";
  import { useEditor } from "../../state/editor.svelte";
  import LoudnessChart from "../programme/LoudnessChart.svelte";
  import ProgrammeTitle from "../programme/ProgrammeTitle.svelte";
  import { TARGETS } from "../programme/targets";
  import ExaminePanel from "./ExaminePanel.svelte";
  import FadePanel from "./FadePanel.svelte";
  import LinePanel from "./LinePanel.svelte";
  import HistoryPanel from "./HistoryPanel.svelte";
  import HearSwitch from "./HearSwitch.svelte";
  import OwnerTitle from "./OwnerTitle.svelte";
  import Sheet from "./Sheet.svelte";
  import StepPanel from "./StepPanel.svelte";
  import { tracedEffects } from "./pictures";
  import { subjectTime } from "./subjectTime";
  import TogetherLine from "./TogetherLine.svelte";
  import VersionsPanel from "./VersionsPanel.svelte";
  import WavePair from "./WavePair.svelte";

  const editor = useEditor();
  const { session, selection, analysis, hearing, layout } = editor;
  const subject = $derived(selection.subject);
  const clip = $derived(subject.clip);
  const owner = $derived(subject.owner);
  const row = $derived(selection.row);
  const others = $derived(clip ? sharers(session.shown, clip) : []);
  const linked = $derived(clip?.chain ? session.shown.uses("chains", clip.chain) - 1 : 0);
  const shownState = $derived(clip ? clipState(clip) : "untreated");
  const time = $derived(subjectTime(editor));
  const [standard] = TARGETS;
  let target = $state.raw(standard);

  /** What the pictures of the bench need to be heard for. */
  const wanted = $derived({
    ...(row && editor.panel === null && tracedEffects.has(row.step.effect) && row.step.on
      ? { traced: row.step.id }
      : {}),
    ...(layout.spectra ? { spectra: true } : {})
  });

  $effect(() => analysis.want(subject, wanted));
  $effect(() => hearing.measure());
</script>

<div class="bench" id="bench">
  <div class="title">
    {#if clip}
      <span class="name">
        <TypedField
          label="Name of the clip"
          takes="1 to 120 characters"
          text={clip.name}
          width="auto"
          commit={(name) => name.trim() !== "" && session.run({ type: "clip.set", clipIds: [clip.id], name })}
        />
      </span>
      {#if selection.clipIds.length > 1}<span class="soft">and {selection.clipIds.length - 1} more</span>{/if}
      {#if others.length > 0}
        <button
          class="about"
          title="The same recording: {others
            .map((c) => c.name)
            .join(', ')}. What you do here changes this clip only. Click for what they have in common."
          onclick={(event) => editor.offer(event, "shared", `Clips of the recording of ${clip.name}`, null)}
          >used by {others.length} other{others.length === 1 ? "" : "s"}</button
        >
      {/if}
      {#if linked > 0}
        <span class="warn">shares its chain with {linked} other{linked === 1 ? "" : "s"}</span>
      {/if}
      {#if shownState === "stale"}
        <span class="warn" role="status" title="The render no longer matches the chain: the chain plays live"
          >Render is stale</span
        >
      {/if}
    {:else if owner.table === "project"}
      <ProgrammeTitle bind:target />
    {:else}
      <OwnerTitle {owner} name={subject.name} />
    {/if}
    <HearSwitch change={owner.table !== "project"} />
    {#if owner.table !== "project"}<span class="gap"></span>{/if}
    <Button
      kind="tertiary"
      size="small"
      aria-pressed={editor.panel === "examine"}
      title="Looks for what is wrong with the sound, and what mends it (Alt E)"
      on:click={() => actionOf("examine").run(editor)}>Examine</Button
    >
    {#if clip}<Button kind="tertiary" size="small" on:click={() => actionOf("measure").run(editor)}
        >Measure…</Button
      >{/if}
    <Button
      kind="tertiary"
      size="small"
      disabled={selection.rows.length === 0}
      on:click={() => actionOf("preset").run(editor)}>Save preset…</Button
    >
    {#if clip}
      <Button
        kind="tertiary"
        size="small"
        disabled={!restorable(editor)}
        on:click={() => actionOf("restore").run(editor)}>Restore</Button
      >
      <Button
        kind="tertiary"
        size="small"
        aria-pressed={editor.panel === "versions"}
        title="Renders and kept states of the clip (Alt V)"
        on:click={() => actionOf("versions").run(editor)}
        >Versions{clip.versions?.length ? ` ${clip.versions.length}` : ""}</Button
      >
      <Button
        kind="tertiary"
        size="small"
        aria-pressed={editor.panel === "history"}
        title="Everything that made its sound, from the import on (Alt H)"
        on:click={() => actionOf("history").run(editor)}>History</Button
      >
      <Button
        kind="tertiary"
        size="small"
        disabled={!renderable(editor)}
        on:click={() => actionOf("render").run(editor)}
        >{shownState === "stale" ? "Render again…" : "Render…"}</Button
      >
    {/if}
  </div>
  {#if owner.table === "project" && time}
    <LoudnessChart
      curve={analysis.loudness}
      share={analysis.progress < 1 ? analysis.progress : 1}
      from={time.from}
      to={time.to}
      {target}
    />
  {:else}
    <WavePair />
  {/if}
  <TogetherLine />
  <div class="work">
    <Sheet {subject} />
    {#if editor.panel === "examine"}
      <ExaminePanel />
    {:else if editor.panel === "history" && clip}
      {#key clip.id}<HistoryPanel {clip} />{/key}
    {:else if editor.panel === "versions" && clip}
      <VersionsPanel {clip} />
    {:else if editor.panel === "fades" && clip}
      <FadePanel />
    {:else if editor.panel === "lines" && (clip || owner.table === "tracks")}
      <LinePanel />
    {:else if row}
      {#key `${owner.id} ${row.step.id}`}<StepPanel {row} />{/key}
    {:else}
      <div class="hint soft">
        <p>
          {clip
            ? subject.owners.length > 1
              ? "None of these clips"
              : "This clip"
            : owner.table === "project"
              ? "The mix"
              : `"${subject.name}"`}
          {subject.owners.length > 1 ? "is treated" : "is untreated"}. Add a step at the left: type
          <em>comp</em>, <em>eq</em>, <em>gain</em> or <em>lim</em>.
        </p>
        <p>
          {#if owner.table === "project"}
            Select a clip to treat that clip, the head of a track for the track, a recording on the shelf for
            all its clips. Space plays, Ctrl K finds any action, ? shows all keys.
          {:else}Or apply a saved preset from the shelf.{/if}
        </p>
      </div>
    {/if}
  </div>
</div>

<style>
  .bench {
    display: flex;
    flex-direction: column;
    min-height: 0;
    overflow: hidden;
    background: var(--w-panel);
    /* A layer of its own: else, whenever something moves, the browser compares every field here with every picture of the timeline. */
    will-change: opacity;
  }

  .title {
    display: flex;
    align-items: center;
    gap: 8px;
    min-width: 0;
    height: 37px;
    padding: 0 10px 0 12px;
    border-bottom: 1px solid var(--w-rule);
    font-size: 12px;
    white-space: nowrap;
  }

  .title > :global(.bx--btn) {
    flex: none;
    padding-inline: 9px;
  }

  .name {
    flex: none;
    margin-left: -6px;
  }

  .name :global(input.bx--text-input) {
    /* As wide as what it holds. */
    field-sizing: content;
    min-width: 60px;
    max-width: 170px;
    border-color: transparent;
    background: transparent;
    font-family: var(--w-sans);
    font-size: 15px;
    font-weight: 600;
    text-overflow: ellipsis;
  }

  .name :global(input.bx--text-input:hover),
  .name :global(input.bx--text-input:focus) {
    border-color: var(--w-rule);
  }

  .gap {
    flex: 1;
  }

  .warn,
  .about {
    flex-shrink: 0.2;
    overflow: hidden;
    text-overflow: ellipsis;
  }

  .warn {
    color: var(--w-madder);
    font-weight: 500;
  }

  .about {
    padding: 0;
    border: 0;
    background: none;
    color: var(--w-ink);
    font: inherit;
    text-decoration: underline;
    cursor: pointer;
  }

  .bench > :global(*) {
    flex: none;
  }

  .bench > .work {
    display: grid;
    flex: 1;
    grid-template-columns: minmax(440px, 40%) 1fr;
    min-height: 0;
  }

  .hint {
    padding: 14px 20px;
    font-size: 13px;
  }
</style>
