<script lang="ts">
	import ReachCheck from '../connection/ReachCheck.svelte';
	import { Reach } from '../connection/reach.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';

	let {
		credential,
		ownConnections,
		save,
		afterFix
	}: { credential: string; ownConnections: string[]; save: () => Promise<void>; afterFix: () => Promise<void> } =
		$props();
	const project = useProject();
	let chosen = $state('');
	let path = $state('');
	const connections = $derived(project().overview.connections.map((one) => one.name));
	// where it is used already, else the connection that most steps go through
	const usual = $derived.by(() => {
		const { connections: all, credentials } = project().overview;
		const at = credentials.find((one) => one.name === credential)?.uses[0]?.collection;
		return (
			project().collections.find((one) => one.name === at)?.connection ||
			[...all].sort((a, b) => b.usedSteps - a.usedSteps)[0]?.name
		);
	});
	const connection = $derived(chosen || ownConnections[0] || usual || '');
	// by its words alone: whatever else changes in the project leaves a trial as it is
	const at = $derived(project().name);
	const reach = $derived(connection ? new Reach(at, connection) : undefined);
	$effect(() => {
		const current = reach;
		return () => current?.stop();
	});
</script>

{#if reach}
	<ReachCheck
		{reach}
		title="Try it"
		order={{ credential, ...(path.trim() ? { path: path.trim() } : {}) }}
		beforeCheck={save}
		{afterFix}
	>
		<span class="flex items-baseline gap-2 text-[13px]">
			<label class="flex items-baseline gap-1 text-quiet"
				>through <select
					class="bare data field-sizing-content cursor-pointer text-ink"
					aria-label="Connection of the trial"
					value={connection}
					onchange={(event) => (chosen = event.currentTarget.value)}
				>
					{#each connections as name (name)}<option value={name}>{name}</option>{/each}
				</select></label
			>
			<label class="flex items-baseline gap-1 text-quiet"
				>GET <input
					class="field data w-40 text-ink"
					placeholder="/"
					aria-label="Path of the trial"
					bind:value={path}
				/></label
			>
		</span>
	</ReachCheck>
{:else}<p class="text-quiet">A connection is needed to try it: make one first.</p>{/if}
