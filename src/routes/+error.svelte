<script lang="ts">
  import { page } from "$app/state";
</script>

<svelte:head><title>Wring</title></svelte:head>

<main>
  <h1>{page.error?.message ?? "Something went wrong."}</h1>
  <p><a href="/">Back to the projects</a></p>
</main>

<style>
  main {
    max-width: 560px;
    margin: 15vh auto;
    padding: 0 24px;
  }

  h1 {
    font-size: 20px;
    font-weight: 500;
  }

  a {
    color: var(--w-slate);
  }
</style>
