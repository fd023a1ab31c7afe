<!-- Says of a clip that was cut off another that its chain hears on what lies beyond the cut, and lets it begin anew. -->
<script lang="ts">
  import { hearsBeyond } from "$lib/core/session/heard";
  import { actionOf } from "../../state/actions";
  import { useEditor } from "../../state/editor.svelte";
  import type { Subject } from "../../state/selection.svelte";

  let { subject }: { subject: Subject } = $props();
  const editor = useEditor();
</script>

{#if subject.clip && subject.steps.length > 0 && hearsBeyond(subject.clip)}
  <p>
    Cut off a longer clip: its chain hears on what lies beyond the cut.
    <button
      title="The chain hears silence beyond the clip's edges: what was cut away no longer rings into it"
      onclick={() => actionOf("chainAnew").run(editor)}>Begin anew here</button
    >
  </p>
{/if}

<style>
  p {
    margin: 0;
    padding: 3px 24px;
    color: var(--w-soft);
    font-size: 12px;
  }

  button {
    padding: 0;
    border: 0;
    background: none;
    color: var(--w-slate);
    font: inherit;
    font-weight: 600;
    text-decoration: underline;
    cursor: pointer;
  }
</style>
