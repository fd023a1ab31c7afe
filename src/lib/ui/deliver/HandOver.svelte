<!-- The project itself, for another machine. -->
<script lang="ts">
  import { Link } from "carbon-components-svelte";
  import Archive from "carbon-icons-svelte/lib/Archive.svelte";
  import { useEditor } from "../state/editor.svelte";

  const { session } = useEditor();
</script>

<p class="soft">
  <Link href="/api/projects/{session.projectId}/archive" icon={Archive} download
    >Save the project archive</Link
  >
  One ZIP with the project, its history and all of its audio. “Open a project archive…” on the first page takes
  it up again, on this machine or another, the same to the sample.
</p>

<style>
  p {
    margin: 0;
    font-size: 12px;
  }

  p :global(.bx--link) {
    margin-right: 8px;
    font-size: 13px;
  }
</style>
