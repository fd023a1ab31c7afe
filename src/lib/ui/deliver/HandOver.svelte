<!-- The project itself, for another machine. -->
<script lang="ts">
  import { Link } from "carbon-components-svelte";
  import Archive from "carbon-icons-svelte/lib/Archive.svelte";
  import Export from "carbon-icons-svelte/lib/Export.svelte";
  import { leftOut } from "$lib/core/exchange/toOtio";
  import { useEditor } from "../state/editor.svelte";

  const { session } = useEditor();
  const missing = $derived(leftOut(session.document));
</script>

<p class="soft">
  <Link href="/api/projects/{session.projectId}/archive" icon={Archive} download
    >Save the project archive</Link
  >
  One ZIP with the project, its history and all of its audio. “Open a project archive or a timeline…” on the first
  page takes it up again, on this machine or another, the same to the sample.
</p>
<p class="soft">
  <Link href="/api/projects/{session.projectId}/timeline" icon={Export} download
    >Save the timeline for other programs</Link
  >
  An OpenTimelineIO bundle: clips, fades and gains, tracks and sections, with the audio beside it.
  {#if missing.length > 0}It cannot carry {missing.join("; ")}.{/if}
</p>

<style>
  p {
    margin: 0 0 4px;
    font-size: 12px;
  }

  p :global(.bx--link) {
    margin-right: 8px;
    font-size: 13px;
  }
</style>
