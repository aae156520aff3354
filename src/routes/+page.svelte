<svelte:head><title>Loyal Heron</title></svelte:head>
<main class="mx-auto max-w-xl p-16">
	<h1>There is no project yet</h1>
	<p class="text-quiet mt-2">A project is a folder of text files. Bring one in from a terminal:</p>
	<pre class="data bg-sheet border-rule mt-3 rounded border p-3">heron import path/to/project</pre>
	<p class="text-quiet mt-3">Then load this page again.</p>
</main>
