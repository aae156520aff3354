<script lang="ts">
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import type { ProjectList } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { lazy } from '../common/lazy.svelte.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';

	const project = useProject();
	let list: ProjectList['projects'] = $state.raw([]);
	let open = $state(false);
	let asking: 'rename' | 'copy' | 'folder' | 'remove' | undefined = $state();
	let menu: HTMLDetailsElement | undefined = $state();
	/** More than that are on a page of their own. */
	const SHOWN = 8;

	// verdicts and dialogs are fetched when somebody looks
	const verdict = lazy(() => import('../run/Verdict.svelte'));
	const titleDialog = lazy(() => import('./TitleDialog.svelte'));
	const folderDialog = lazy(() => import('./FolderDialog.svelte'));
	const removeDialog = lazy(() => import('./RemoveProject.svelte'));

	async function look() {
		try {
			({ projects: list } = await api.get<ProjectList>('/projects'));
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	function choose(what: () => void) {
		open = false;
		what();
	}
	async function save() {
		try {
			const { takeOut } = await import('./take-out.ts');
			await takeOut(project().name);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	function keys(event: KeyboardEvent) {
		if (!open) return;
		if (event.key === 'Escape') {
			open = false;
			menu?.querySelector('summary')?.focus();
			event.stopPropagation();
			return;
		}
		if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
		event.preventDefault();
		const all = [...menu!.querySelectorAll<HTMLElement>('summary, a, li button')];
		const at = all.indexOf(document.activeElement as HTMLElement) + (event.key === 'ArrowDown' ? 1 : -1);
		all[(at + all.length) % all.length]!.focus();
	}
	function away(event: FocusEvent) {
		if (!menu?.contains(event.relatedTarget as Node | null) && event.relatedTarget) open = false;
	}
</script>

<svelte:window
	onpointerdown={(event) => {
		if (open && !menu?.contains(event.target as Node)) open = false;
	}}
/>
<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<details
	class="relative min-w-0"
	bind:this={menu}
	bind:open
	ontoggle={(event) => event.currentTarget.open && void look()}
	onkeydown={keys}
	onfocusout={away}
>
	<summary class="flex max-w-56 cursor-pointer list-none items-center gap-1 font-bold">
		<span class="truncate">{project().overview.title}</span><ChevronDown size={14} aria-hidden="true" />
	</summary>
	{#if open}
		{@const Verdict = verdict.now}
		<ul
			class="absolute top-8 left-0 z-30 max-h-[80vh] w-96 overflow-auto rounded border border-rule bg-sheet py-1 max-[480px]:w-[calc(100vw-2rem)]"
			aria-label="Projects"
		>
			{#each list.slice(0, SHOWN) as one (one.name)}
				<li>
					<a
						class="flex items-baseline gap-2 px-3 py-1.5 hover:bg-mist"
						data-sveltekit-reload
						aria-current={one.name === project().name ? 'true' : undefined}
						href="/{one.name}/collections"
						><span class="truncate" class:font-semibold={one.name === project().name}>{one.title}</span>
						<span class="ml-auto shrink-0 text-[13px]"
							>{#if one.last && Verdict}<Verdict run={one.last} />{/if}</span
						></a
					>
				</li>
			{/each}
			<li class="border-b border-line pb-1">
				<a class="block px-3 py-1.5 text-quiet hover:bg-mist" href="/projects"
					>{list.length > SHOWN ? `New project, or one of all ${list.length}` : 'New project, all projects'}…</a
				>
			</li>
			<li>
				<a class="block px-3 py-1.5 hover:bg-mist" href="/{project().name}/history" onclick={() => (open = false)}
					>Its history</a
				>
			</li>
			<li>
				<a class="block px-3 py-1.5 hover:bg-mist" href="/{project().name}/files" onclick={() => (open = false)}
					>Its files</a
				>
			</li>
			{#each [['Rename…', () => (asking = 'rename')], ['Duplicate…', () => (asking = 'copy')], [project().overview.folder ? 'Its folder…' : 'Make it a folder…', () => (asking = 'folder')], ['Take its files out as a ZIP', () => void save()], ['Remove…', () => (asking = 'remove')]] as const as [label, what] (label)}
				<li>
					<button class="block w-full px-3 py-1.5 text-left hover:bg-mist" onclick={() => choose(what)}>{label}</button>
				</li>
			{/each}
		</ul>
	{/if}
</details>
{#if asking === 'folder'}{@const Dialog = folderDialog.now}{#if Dialog}<Dialog
			onclose={() => (asking = undefined)}
		/>{/if}
{:else if asking === 'remove'}{@const Dialog = removeDialog.now}{#if Dialog}<Dialog
			onclose={() => (asking = undefined)}
		/>{/if}
{:else if asking}{@const Dialog = titleDialog.now}{#if Dialog}<Dialog
			copy={asking === 'copy'}
			onclose={() => (asking = undefined)}
		/>{/if}{/if}
