<script lang="ts">
	import { goto } from '$app/navigation';
	import { looksLikeCurl } from '#core/exchange/looks.ts';
	import { readCall, seemsDefinition } from '#core/begin/index.ts';
	import { nameFrom } from '#core/soap/index.ts';
	import { api, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { leaveDefinition, leaveSend } from './beginning.ts';
	import { base64Of, projectAmong, readChosen, readDropped, unpacked, type Brought } from './bring.ts';

	let call = $state('');
	let title = $state('');
	let folder = $state('');
	let trouble = $state('');
	let busy = $state('');
	let above = $state(false);

	/** What would happen, in words; empty while nothing can. */
	const plan = $derived.by(() => {
		const text = call.trim();
		if (!text) return '';
		if (seemsDefinition(text))
			return 'This looks like a definition: it is read into a new project, and you see what it makes first.';
		try {
			const { method, host, path, local, made } = readCall(text);
			const secrets = made?.secrets.map(({ where }) => where) ?? [];
			return `Sends ${method} ${path} to ${host}, and keeps it as the first step of a new project. The address becomes a variable of the environment ${local ? 'local' : 'test'}.${secrets.length > 0 ? ` What is secret goes into the vault: ${secrets.join(', ')}.` : ''}`;
		} catch {
			return '';
		}
	});

	async function during(words: string, work: () => Promise<void>) {
		busy = words;
		trouble = '';
		try {
			await work();
		} catch (error) {
			trouble = messageOf(error);
		} finally {
			busy = '';
		}
	}
	interface Begun {
		name: string;
		first?: { collection: string; scenario: string; step: string };
		notes?: string[];
	}
	const begin = (event: SubmitEvent) => {
		event.preventDefault();
		const text = call.trim();
		if (!text) return;
		void during('Beginning…', async () => {
			if (seemsDefinition(text)) {
				const found = new URL(text);
				return describe(found.hostname, { files: [], address: text });
			}
			const { name, first, notes = [] } = await api.post<Begun>('/begin', { title: '', call: text });
			for (const note of notes) toasts.show(note);
			const place = `${first!.collection}#${first!.scenario}/${first!.step}`;
			leaveSend(`${name}/${place}`);
			await goto(`/${name}/collections/${place}`);
		});
	};
	const startEmpty = (event: SubmitEvent) => {
		event.preventDefault();
		void during('Beginning…', async () => {
			const { name } = await api.post<Begun>('/begin', { title: title.trim(), call: '' });
			await goto(`/${name}/collections`);
		});
	};
	const openFolder = (event: SubmitEvent) => {
		event.preventDefault();
		void during('Opening…', async () => {
			const { name } = await api.post<Begun>('/folders', { dir: folder.trim() });
			await goto(`/${name}/collections`);
		});
	};
	/** A new project that begins with what describes a service. */
	async function describe(
		wanted: string,
		definition: { files: { path: string; base64: string }[]; address: string }
	): Promise<void> {
		const { name } = await api.post<Begun>('/begin', { title: wanted, call: '' });
		leaveDefinition({ project: name, ...definition });
		await goto(`/${name}/collections`);
	}
	const bring = (reading: Promise<Brought[]>) =>
		during('Reading…', async () => {
			const files = await unpacked(await reading);
			if (files.length === 0) return;
			const project = projectAmong(files);
			if (project) {
				const { name } = await api.post<Begun>('/projects', {
					name: project.name,
					free: true,
					files: project.files.map(({ path, bytes }) => ({ path, base64: base64Of(bytes) }))
				});
				return goto(`/${name}/collections`);
			}
			const definitions = files.filter(({ path }) => /\.(wsdl|xsd|xml|json|ya?ml|har)$/i.test(path));
			const [main] = [...definitions.filter(({ path }) => /\.wsdl$/i.test(path)), ...definitions];
			if (!main)
				throw new Error(
					'this is neither a project nor a definition: a project’s folder holds a heron.yaml, a definition is WSDL or OpenAPI, a recording is HAR'
				);
			await describe(nameFrom(main.path), {
				address: '',
				files: definitions.map(({ path, bytes }) => ({ path, base64: base64Of(bytes) }))
			});
		});
	const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
</script>

<svelte:window
	ondragover={(event) => {
		if (!hasFiles(event)) return;
		event.preventDefault();
		above = true;
	}}
	ondragleave={(event) => {
		if (event.relatedTarget === null) above = false;
	}}
	ondrop={(event) => {
		if (!hasFiles(event)) return;
		event.preventDefault();
		above = false;
		void bring(readDropped(event.dataTransfer!));
	}}
/>
<section aria-label="Begin a project" class={above ? 'bg-mist' : ''}>
	<form class="pt-4" onsubmit={begin}>
		<label class="block" for="begin-call"
			>Paste what you have: an address to call, a command of curl, or the address of a WSDL or OpenAPI</label
		>
		<div class="mt-1.5 flex gap-3">
			<!-- svelte-ignore a11y_autofocus -->
			<input
				id="begin-call"
				class="field data min-w-0 flex-1 !py-2 !text-[15px]"
				placeholder="http://127.0.0.1:8080/v1/bookings"
				spellcheck="false"
				autocomplete="off"
				autocapitalize="off"
				autofocus
				bind:value={call}
				onpaste={(event) => {
					// a field of one line would join the lines of a command without regard
					const text = event.clipboardData?.getData('text/plain') ?? '';
					if (!looksLikeCurl(text)) return;
					event.preventDefault();
					call = text.trim().replace(/[ \t]*[\\^`]\r?\n[ \t]*/g, ' ');
				}}
				aria-describedby="begin-plan"
				onkeydown={(event) => {
					if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) event.currentTarget.form?.requestSubmit();
				}}
			/>
			<button class="press go" disabled={!plan || busy !== ''}>{busy || 'Begin'}</button>
		</div>
		<p id="begin-plan" class="mt-1.5 min-h-10 text-[13px] text-quiet">
			{plan ||
				(call.trim()
					? 'An address looks like https://host/path; a method may stand before it.'
					: 'It is sent at once, and becomes the first step: then add checks from what came back.')}
		</p>
	</form>
	{#if trouble}<p class="note mb-2" role="alert">{trouble}</p>{/if}
	<ul class="border-t border-line text-[13px]">
		<li class="border-b border-line py-2">
			<form class="flex flex-wrap items-center gap-3" onsubmit={openFolder}>
				<label class="w-72 max-w-full" for="begin-folder">A project’s folder on this machine, as it is</label>
				<input
					id="begin-folder"
					class="field data w-64"
					placeholder="the whole path of the folder"
					spellcheck="false"
					autocomplete="off"
					bind:value={folder}
				/>
				<button class="press" disabled={folder.trim() === '' || busy !== ''}>Open it</button>
				<span class="text-quiet">what is changed there or here is in both</span>
			</form>
		</li>
		<li class="flex flex-wrap items-center gap-3 border-b border-line py-2">
			<span class="w-72 max-w-full">A copy of a project, from a folder or ZIP</span>
			<label class="press cursor-pointer"
				>Choose its folder<input
					type="file"
					class="sr-only"
					webkitdirectory
					aria-label="A project’s folder"
					onchange={(event) => void bring(readChosen(event.currentTarget.files))}
				/></label
			>
			<label class="press cursor-pointer"
				>Choose a ZIP<input
					type="file"
					class="sr-only"
					accept=".zip"
					aria-label="A ZIP of a project"
					onchange={(event) => void bring(readChosen(event.currentTarget.files))}
				/></label
			>
			<span class="text-quiet">or drop it on this page</span>
		</li>
		<li class="flex flex-wrap items-center gap-3 border-b border-line py-2">
			<span class="w-72 max-w-full">What describes the service: WSDL, OpenAPI; or a browser’s recording: HAR</span>
			<label class="press cursor-pointer"
				>Choose files<input
					type="file"
					class="sr-only"
					multiple
					accept=".wsdl,.xsd,.xml,.zip,.json,.yaml,.yml,.har"
					aria-label="Files of a definition, or a recording"
					onchange={(event) => void bring(readChosen(event.currentTarget.files))}
				/></label
			>
			<span class="text-quiet">or drop them on this page</span>
		</li>
		<li class="border-b border-line py-2">
			<form class="flex flex-wrap items-center gap-3" onsubmit={startEmpty}>
				<label class="w-72 max-w-full" for="begin-title">Nothing yet, but a title</label>
				<input id="begin-title" class="field w-64" placeholder="Lock passages" bind:value={title} />
				<button class="press" disabled={title.trim() === '' || busy !== ''}>Start empty</button>
			</form>
		</li>
	</ul>
</section>
