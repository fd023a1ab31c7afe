<!-- What follows a chain: a clip's fades and gain, the gain of the mix, and in words what follows elsewhere. -->
<script lang="ts">
  import { formatDb, parseDb } from "$lib/core/units/decibels";
  import TypedField from "../../shared/TypedField.svelte";
  import { useEditor } from "../../state/editor.svelte";
  import type { Subject } from "../../state/selection.svelte";
  import FadeFields from "./FadeFields.svelte";

  let { subject }: { subject: Subject } = $props();
  const { session } = useEditor();

  const words = {
    recordings: "The clips' windows, chains and fades come after this.",
    tracks: "The track's gain and pan come after this.",
    project: "Everything is heard through this chain, last of all.",
    clips: ""
  };

  function setMixGain(text: string): boolean {
    const gainDb = parseDb(text);
    return gainDb !== undefined && gainDb >= -96 && gainDb <= 48 && session.run({ type: "mix.set", gainDb });
  }
</script>

<div class="shape">
  {#if subject.clip}
    <FadeFields clip={subject.clip} />
  {:else}
    {#if subject.owner.table === "project"}
      <span class="soft">Output gain</span>
      <TypedField
        label="Gain of the mix in dB"
        takes="-96 to 48 dB"
        title="Gain behind the mix's chain; double click is 0"
        text={`${formatDb(session.shown.project.mix.gainDb, 1, true)} dB`}
        width="72px"
        commit={setMixGain}
        reset={() => setMixGain("0")}
      />
    {/if}
    <span class="soft">{words[subject.owner.table]}</span>
  {/if}
</div>

<style>
  .shape {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 10px;
    padding: 6px 8px 2px 22px;
    font-size: 12px;
  }
</style>
