const KEY = 'guide';

/** The project that the guide goes through. */
export const DEMO = 'reedmere';

/** The first five minutes: whether they are shown, and how far one has come. A browser keeps it. */
class Guide {
	open = $state(false);
	at = $state(0);

	/** Takes up what was kept; at first it is open. */
	begin(): void {
		const { open = true, at = 0 } = kept();
		this.open = open;
		this.at = at;
	}
	go(at: number): void {
		this.at = at;
		this.#keep();
	}
	show(open: boolean): void {
		this.open = open;
		this.#keep();
	}
	#keep(): void {
		try {
			localStorage.setItem(KEY, JSON.stringify({ open: this.open, at: this.at }));
		} catch {
			// it holds as long as the page is there
		}
	}
}

function kept(): { open?: boolean; at?: number } {
	try {
		const found = JSON.parse(localStorage.getItem(KEY) ?? '{}') as unknown;
		return typeof found === 'object' && found !== null ? found : {};
	} catch {
		return {};
	}
}

export const guide = new Guide();
