<script lang="ts">
	import type { OperationBrief } from '#core/coverage/index.ts';
	import { counted } from '#core/messages.ts';
	import type { OperationView, SchemaRow } from '#core/model/operation-view.ts';
	import { api, messageOf } from '../common/api.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import Content from './Content.svelte';

	let {
		file,
		operation,
		making,
		onmake
	}: {
		file: string;
		operation: OperationBrief;
		/** A step is being made. */
		making: boolean;
		/** Makes a step that calls it. */
		onmake: () => void;
	} = $props();
	const project = useProject();

	let view: OperationView | undefined = $state.raw();
	let trouble = $state('');
	$effect(() => {
		const { name } = operation;
		view = undefined;
		trouble = '';
		let current = true;
		const query = new URLSearchParams({ file, operation: name });
		api.get<OperationView>(`/projects/${project().name}/definitions/operation?${query.toString()}`).then(
			(found) => current && (view = found),
			(error: unknown) => current && (trouble = messageOf(error))
		);
		return () => (current = false);
	});
	const { tally, steps, count } = $derived(operation);
	const stepHref = (step: string) => {
		const [collection, ...place] = step.split('/');
		return `/${project().name}/collections/${collection}#${place.join('/')}`;
	};
</script>

{#snippet line(name: string, place: string, required: boolean, row: SchemaRow)}
	<tr class="border-b border-line align-baseline">
		<td class="w-[36%] py-0.5 pr-3"
			><span class="data">{name}</span>{#if required}<span class="text-quiet">, needed</span>{/if}</td
		>
		<td class="w-[8%] py-0.5 pr-3 text-quiet">{place}</td>
		<td class="w-[14%] py-0.5 pr-3 text-quiet">{row.type}</td>
		<td class="py-0.5"
			>{row.doc}{#if row.limits}<span class="text-quiet">{row.doc ? ' · ' : ''}{row.limits}</span>{/if}</td
		>
	</tr>
{/snippet}

<article class="text-[13px]" aria-label={operation.name}>
	<h2 class="data text-[15px] font-bold break-all">{operation.name}</h2>
	{#if operation.title}<p class="text-[14px]">{operation.title}</p>{/if}
	{#if view?.deprecated}<p class="text-quiet">It is deprecated.</p>{/if}
	{#if view?.description && view.description !== operation.title}<p class="max-w-prose pt-1 whitespace-pre-line">
			{view.description}
		</p>{/if}
	<div class="mt-2 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-y border-line py-1.5">
		{#if count === 0}<span class="text-fail">no step calls it</span>
		{:else}<span
				>called by {#each steps.slice(0, 6) as step, index (step)}{index > 0 ? ', ' : ''}<a
						class="inline-block min-h-6 leading-6 underline decoration-dotted"
						href={stepHref(step)}>{step.split('/').slice(1).join(' › ')}</a
					>{/each}{steps.length > 6 ? ` and ${steps.length - 6} more` : ''}</span
			>{/if}
		<span class="text-quiet">{tally.touched} of {counted(tally.all, 'point')} tested</span>
		<button class="press ml-auto" disabled={making} onclick={onmake}>New step from it</button>
	</div>
	{#if trouble}<p class="note mt-2" role="alert">{trouble}</p>{/if}
	{#if view}
		{#if view.security.length > 0}<p class="pt-2">
				<span class="label pr-2">Signs in by</span>{view.security.join(', or ')}
			</p>{/if}
		{#if view.parameters.length > 0}
			<h3 class="label pt-3">Parameters</h3>
			<table class="w-full border-collapse" aria-label="Parameters">
				<tbody>
					{#each view.parameters as one (`${one.place} ${one.name}`)}{@render line(
							one.name,
							one.place,
							one.required,
							one.row
						)}{/each}
				</tbody>
			</table>
		{/if}
		{#if view.bodies.length > 0}
			<h3 class="label pt-3">Body{view.bodies.some(({ required }) => required) ? ', needed' : ''}</h3>
			{#each view.bodies as body (body.type)}<Content content={body} label="the body, {body.type}" />{/each}
		{/if}
		<h3 class="label pt-3">Answers</h3>
		{#each view.answers as answer (answer.status)}
			<section class="border-b border-line pb-2" aria-label="Answer {answer.status}">
				<p class="pt-1"><b class="data">{answer.status}</b> {answer.description}</p>
				{#if answer.headers.length > 0}<table
						class="w-full border-collapse"
						aria-label="Header fields of {answer.status}"
					>
						<tbody>
							{#each answer.headers as header, index (index)}{@render line(
									header.name,
									'header',
									header.row.required,
									header.row
								)}{/each}
						</tbody>
					</table>{/if}
				{#each answer.bodies as body (body.type)}<Content
						content={body}
						label="answer {answer.status}, {body.type}"
					/>{/each}
			</section>
		{:else}<p class="text-quiet">none is defined</p>{/each}
	{/if}
</article>
