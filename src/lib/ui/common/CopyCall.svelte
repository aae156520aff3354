<script lang="ts">
	import type { CurlShell, WrittenCall } from '#core/exchange/index.ts';
	import { messageOf } from './api.ts';
	import { toasts } from './toast.svelte.ts';

	/** @property call what was sent, or will be; secrets in it are masked, and become variables of the shell */
	let { call }: { call: () => WrittenCall | Promise<WrittenCall> } = $props();

	async function copy(shell: CurlShell) {
		try {
			const [{ writeCurl }, written] = await Promise.all([import('#core/exchange/index.ts'), call()]);
			const command = writeCurl(written, shell);
			await navigator.clipboard.writeText(command);
			const [, wanted] = /^# wants (.*)$/m.exec(command) ?? [];
			toasts.show(wanted ? `Copied. Set ${wanted} before you run it.` : 'Copied.');
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function copyMessage() {
		try {
			const [{ writeMessage }, written] = await Promise.all([import('#core/exchange/index.ts'), call()]);
			await navigator.clipboard.writeText(writeMessage(written));
			toasts.show('Copied.');
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<span class="flex items-baseline gap-2 whitespace-nowrap">
	<button class="word soft" onclick={() => copy('bash')}>copy as curl</button>
	<button class="word soft" onclick={() => copy('powershell')}>for PowerShell</button>
	<button class="word soft" onclick={copyMessage}>as HTTP</button>
</span>
