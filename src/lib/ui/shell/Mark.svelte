<svg
	width="22"
	height="30"
	viewBox="0 0 22 30"
	fill="none"
	stroke="currentColor"
	stroke-width="2"
	stroke-linecap="round"
	aria-hidden="true"
>
	<path d="M3 7.5 11 5.5a3.4 3.4 0 0 1 3.3 5.1c-1.6 2.6-6.6 4.6-5 9.1.9 2.5 4.3 3 7.7 2.3" /><path
		d="M12.5 22.5V29M2 29h18"
		stroke-width="1.4"
	/><circle cx="11.6" cy="8" r=".8" fill="currentColor" stroke="none" />
</svg>
