/** A number as its shortest decimal writing: digits × 10^-places. */
function decimalOf(value: number | bigint): { digits: bigint; places: number } {
	const [, sign = '', whole = '0', part = '', power = '0'] = /^(-?)(\d+)(?:\.(\d+))?(?:e([+-]?\d+))?$/.exec(
		String(value)
	)!;
	const places = part.length - Number(power);
	const digits = BigInt(sign + whole + part);
	return places < 0 ? { digits: digits * 10n ** BigInt(-places), places: 0 } : { digits, places };
}

/** Whether a number is a whole multiple of another one, as decimals: 19.99 is one of 0.01. */
export function isMultipleOf(value: number | bigint, step: number): boolean {
	if ((typeof value === 'number' && !Number.isFinite(value)) || !Number.isFinite(step) || step === 0) return false;
	const [a, b] = [decimalOf(value), decimalOf(step)];
	const places = Math.max(a.places, b.places);
	const scaled = ({ digits, places: own }: typeof a) => digits * 10n ** BigInt(places - own);
	return scaled(a) % scaled(b) === 0n;
}
