<svelte:head><title>Loyal Heron</title></svelte:head>
<main class="mx-auto max-w-xl p-16">
	<h1>There is no project yet</h1>
	<p class="mt-2 text-quiet">A project is a folder of text files. Bring one in from a terminal:</p>
	<pre class="data mt-3 rounded border border-rule bg-sheet p-3">heron import path/to/project</pre>
	<p class="mt-3 text-quiet">Then load this page again.</p>
</main>
