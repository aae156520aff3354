<script lang="ts">
	import { toasts } from '../common/toast.svelte.ts';
</script>

<!-- a new one comes on top: those that are there stay where they are -->
<div
	class="pointer-events-none fixed right-5 bottom-11 z-40 flex w-96 max-w-[calc(100vw-2.5rem)] flex-col-reverse gap-2"
	role="status"
	aria-live="polite"
	aria-label="Messages"
>
	{#each toasts.list as toast (toast.id)}
		<div
			class="pointer-events-auto flex items-baseline gap-3 rounded border bg-sheet px-3 py-2 {toast.kind === 'trouble'
				? 'border-fail'
				: 'border-rule'}"
			role="group"
			aria-label="Message"
			onpointerenter={() => toasts.hold()}
			onpointerleave={() => toasts.letGo()}
			onfocusin={() => toasts.hold()}
			onfocusout={() => toasts.letGo()}
		>
			<span class="min-w-0 break-words">{toast.text}</span>
			{#if toast.action && (toast.action.holds?.() ?? true)}<button
					class="word ml-auto shrink-0"
					onclick={() => {
						toast.action?.run();
						toasts.close(toast.id);
					}}>{toast.action.label}</button
				>{/if}
			{#if toast.way}<a class="word ml-auto shrink-0" href={toast.way.href} onclick={() => toasts.close(toast.id)}
					>{toast.way.label}</a
				>{/if}
			<button
				class="word soft {(toast.action ?? toast.way) ? '' : 'ml-auto'} shrink-0"
				onclick={() => toasts.close(toast.id)}>close</button
			>
		</div>
	{/each}
</div>
