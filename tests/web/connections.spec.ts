import net from 'node:net';
import { parse } from 'yaml';
import { accessible, expect, saved, test, write } from './fixtures.ts';

const stage = (name: string) => ({ name, exact: true });

test.describe('a reach check that fails is mended by a click', () => {
	const fixes = [
		{
			what: 'an authority that nobody trusts',
			standin: 'gatehouse-self-signed',
			more: '',
			finding: 'The certificate is signed by itself',
			button: 'Trust this certificate here',
			written: /authorities: ?\n? *(\[|- )files\/trusted\/gatehouse-by-itself/
		},
		{
			what: 'a certificate of another host',
			standin: 'gatehouse-other-name',
			more: 'tls: { authorities: [files/gatehouse/authority.pem] }\n',
			finding: 'The certificate is for another name',
			button: 'Use the name weighbridge.reedmere.example',
			written: /name: weighbridge\.reedmere\.example/
		},
		{
			what: 'a server of old TLS versions',
			standin: 'gatehouse-old',
			more: 'tls: { authorities: [files/gatehouse/authority.pem] }\n',
			finding: 'No common TLS version',
			button: /TLS 1\.[01]/,
			written: /min: "?1\.[01]"?/
		}
	];
	for (const { what, standin, more, finding, button, written } of fixes) {
		test(what, async ({ page, bench }) => {
			const name = `mend-${standin}`;
			const url = await bench.project(name, {
				'connections/trial.yaml': `heron: 1\ntitle: Trial\nbase: ${bench.standin(standin)}\n${more}`
			});
			await page.goto(`${url}/connections/trial`);
			await page.getByRole('button', { name: 'Check now' }).click();
			const tls = page.getByRole('region', { name: 'Reach check' }).getByRole('listitem', stage('TLS'));
			await expect(tls).toContainText(finding);
			await expect(page.getByRole('status').filter({ hasText: 'stopped at stage 4 of 7' })).toBeVisible();
			await accessible(page);
			const before = await bench.file(name, 'connections/trial.yaml');
			await tls.getByRole('button', { name: button }).first().click();
			await expect(page.getByRole('listitem', stage('First answer'))).toContainText('200');
			await expect.poll(() => bench.file(name, 'connections/trial.yaml')).toMatch(written);
			await page.getByRole('button', { name: 'undo' }).last().click();
			await expect.poll(() => bench.file(name, 'connections/trial.yaml')).toBe(before);
		});
	}
});

test('a reach check that takes long can be stopped, and another one follows', async ({ page, bench }) => {
	const silent = net.createServer(() => {});
	await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', resolve));
	const { port } = silent.address() as net.AddressInfo;
	const url = await bench.project('stopping', {
		'connections/trial.yaml': `heron: 1\ntitle: ${'A very long title of a connection that says more than it should '.repeat(3)}\nbase: http://127.0.0.1:${port}\n`
	});
	await page.goto(`${url}/connections/trial`);
	await expect(page.getByText('not done yet in local')).toBeVisible();
	await page.keyboard.press('Control+Enter');
	await expect(page.getByRole('status').filter({ hasText: 'under way, 4 of 7' })).toBeVisible();
	await page.getByRole('button', { name: 'stop', exact: true }).click();
	await expect(page.getByText('stopped before its end')).toBeVisible();
	const base = page.getByRole('textbox', { name: 'Base address' });
	await write(base, bench.standin('mirror').replace('http://', ''));
	await page.getByRole('button', { name: 'Check again' }).click();
	await page.getByRole('button', { name: 'Begin it with http://' }).click();
	await expect(page.getByRole('listitem', stage('First answer'))).toContainText('200');
	await page.getByText('what was sent and answered').click();
	const check = page.getByRole('region', { name: 'Reach check' });
	await check.getByText('GET', { exact: true }).last().click();
	await expect(check.getByText('User-Agent:').last()).toBeVisible();
	// a long title takes no room from what is beside it
	const [title, button] = await Promise.all([
		page.getByRole('textbox', { name: 'Title' }).boundingBox(),
		page.getByRole('button', { name: 'Duplicate' }).boundingBox()
	]);
	expect(title!.x + title!.width).toBeLessThan(button!.x);
	silent.close();
});

test('settings are changed everywhere, or in one environment', async ({ page, bench }) => {
	const url = await bench.project('layers');
	await page.goto(`${url}/connections/reedmere`);
	const settings = page.getByRole('region', { name: 'Settings of reedmere' });
	await settings.getByRole('textbox', { name: 'Time limit: connect' }).fill('7 s');
	await settings.getByRole('textbox', { name: 'Time limit: connect' }).press('Tab');
	await settings.getByRole('button', { name: 'staging' }).click();
	await expect(settings).toContainText('holds in staging only');
	await expect(settings.getByRole('textbox', { name: 'Time limit: connect' })).toHaveAttribute('placeholder', '7 s');
	await settings.getByRole('combobox', { name: 'Version of HTTP' }).selectOption('auto');
	await settings.getByRole('checkbox', { name: 'the certificate is looked at' }).uncheck();
	await expect(settings.getByRole('note')).toContainText('not looked at in staging');
	await saved(page);
	const text = await bench.file('layers', 'connections/reedmere.yaml');
	expect(text).toContain('connect: 7 s');
	expect(text).toMatch(/environments:\n {2}staging:\n {4}http: auto\n {4}tls:\n {6}verify: false/);
	await accessible(page);
	await page.getByRole('link', { name: 'Connections', exact: true }).first().click();
	await expect(page.getByRole('row', { name: /Reedmere API/ })).toContainText('not verified');
});

test('prefixes of XML are given to a connection; one that is no prefix, or is there already, is refused', async ({
	page,
	bench
}) => {
	const url = await bench.project('prefixes');
	await page.goto(`${url}/connections/reedmere`);
	const settings = page.getByRole('region', { name: 'Settings of reedmere' });
	const file = () => bench.file('prefixes', 'connections/reedmere.yaml');
	const add = async (prefix: string, namespace: string) => {
		await settings.getByRole('button', { name: 'add a prefix' }).click();
		await expect(settings.getByRole('textbox', { name: 'New prefix' })).toBeFocused();
		await page.keyboard.type(prefix);
		await page.keyboard.press('Tab');
		await page.keyboard.type(namespace);
		await page.keyboard.press('Enter');
	};
	await add('g', 'urn:reedmere:gates');
	await expect(settings.getByRole('textbox', { name: 'Namespace of g' })).toHaveValue('urn:reedmere:gates');
	await expect(settings.getByRole('button', { name: 'add a prefix' })).toBeFocused();
	await expect.poll(file).toContain('namespaces:\n  g: urn:reedmere:gates');
	await add('g', 'urn:reedmere:tolls');
	await expect(page.getByText('g has a namespace already')).toBeVisible();
	await settings.getByRole('textbox', { name: 'New prefix' }).fill('t');
	await page.keyboard.press('Enter');
	await expect(settings.getByRole('textbox', { name: 'Namespace of t' })).toHaveValue('urn:reedmere:tolls');
	await settings.getByRole('textbox', { name: 'Prefix 2' }).fill('1t');
	await page.keyboard.press('Enter');
	await expect(page.getByText('“1t” is no prefix')).toBeVisible();
	await expect(settings.getByRole('textbox', { name: 'Prefix 2' })).toHaveValue('t');
	await settings.getByRole('textbox', { name: 'Prefix 2' }).fill('tolls');
	await page.keyboard.press('Enter');
	await expect.poll(file).toContain('  tolls: urn:reedmere:tolls');
	await settings.getByRole('button', { name: 'Remove the prefix g' }).click();
	await settings.getByRole('button', { name: 'Remove the prefix tolls' }).click();
	await expect.poll(file).not.toContain('namespaces');
	await accessible(page);
});

test('a thousand connections are searched, filtered, sorted, duplicated and deleted', async ({ page, bench }) => {
	test.slow();
	const many = Object.fromEntries(
		Array.from({ length: 1000 }, (_, i) => [
			`connections/c${i}.yaml`,
			`heron: 1\ntitle: Basin ${i}\nbase: https://basin-${i}.reedmere.example\n${i % 2 ? 'credential: warden\n' : ''}`
		])
	);
	const url = await bench.project('thousand', many);
	await page.goto(`${url}/connections`);
	await expect(page.getByText('1012 connections')).toBeVisible();
	await page.getByRole('searchbox', { name: 'Filter the list' }).fill('basin 77');
	await expect(page.getByRole('row', { name: /Basin 77/ })).toHaveCount(11);
	await page.getByRole('combobox', { name: 'Kind of credential' }).selectOption('basic');
	await expect(page.getByRole('row', { name: /Basin 77/ })).toHaveCount(6);
	await page.getByRole('button', { name: 'base address' }).click();
	await page.getByRole('button', { name: /base address/ }).click();
	await expect(page.getByRole('columnheader', { name: /base address/ })).toHaveAttribute('aria-sort', 'descending');
	await expect(page.getByRole('row', { name: /Basin 77/ }).first()).toContainText('basin-779');
	await page.getByRole('link', { name: 'Basin 771' }).click();
	await page.getByRole('button', { name: 'Duplicate' }).click();
	await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue('Basin 771, copy');
	await page.getByRole('button', { name: 'Delete…' }).click();
	await page.getByRole('button', { name: 'Delete', exact: true }).click();
	await expect(page.getByText('1012 connections')).toBeVisible();
	await page.getByRole('button', { name: 'undo' }).last().click();
	await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue('Basin 771, copy');
});

test('a consent is given leg by leg, and the token’s further fields are used', async ({ page, bench, context }) => {
	const url = await bench.project('consent', {
		'collections/mine.yaml':
			'heron: 1\ntitle: Mine\nconnection: sign-on\ncredential: avery\nscenarios:\n  - id: s\n    title: Account\n    steps:\n      - id: me\n        title: Who am I\n        send: GET /account?harbour={$token.harbour}\n        checks: [{ status: 200 }]\n'
	});
	await page.goto(`${url}/credentials/avery`);
	await page.getByRole('button', { name: 'Ask the issuer' }).click();
	await expect(page.getByRole('listitem', stage('Metadata'))).toContainText(`${bench.standin('sign-on')}/token`);
	await page.getByRole('button', { name: 'Prepare the consent' }).click();
	const consent = page.getByRole('listitem', stage('Consent'));
	await expect(consent).toContainText(`${bench.url}/oauth/callback`);
	await consent.getByRole('button', { name: 'Copy the redirect address' }).click();
	expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(`${bench.url}/oauth/callback`);
	await accessible(page);
	const opened = context.waitForEvent('page');
	await consent.getByRole('link', { name: 'Open the consent page' }).click();
	const other = await opened;
	await other.getByRole('button', { name: 'Allow' }).click();
	await expect(other.getByRole('heading', { name: 'The answer has arrived' })).toBeVisible();
	const callback = other.url();
	// a second time is of no use
	await other.reload();
	await expect(other.getByRole('heading', { name: 'This answer is of no use' })).toBeVisible();
	await other.close();
	await expect(consent).toContainText('code, ');
	expect(await consent.textContent()).not.toContain(new URL(callback).searchParams.get('code'));
	await page.getByRole('button', { name: 'Exchange the code' }).click();
	const token = page.getByRole('region', { name: 'The token' });
	await expect(token).toContainText('‹avery.access_token›');
	await expect(token).toContainText('Reedmere Basin');
	await page.getByRole('button', { name: 'Ask about it' }).click();
	await expect(page.getByRole('listitem', stage('Introspection'))).toContainText('username');
	await page.getByRole('button', { name: 'Renew it' }).click();
	await expect(page.getByRole('listitem', stage('Refresh')).getByRole('img', { name: 'passed' })).toBeVisible();
	await expect(page.getByRole('contentinfo')).toContainText('avery token');
	await accessible(page);

	await page.goto(`${url}/collections/mine`);
	await page.getByRole('button', { name: 'Run all' }).click();
	await expect(page.getByRole('button', { name: 'Answer of step 1' })).toContainText('200');
	await page.locator('[id="step-s-me"]').click();
	await expect(page.getByText('OAuth 2.0, from the collection')).toBeVisible();
	await page.getByRole('button', { name: 'as it will be sent' }).click();
	await expect(page.getByRole('region', { name: 'As it will be sent' })).toContainText('Bearer ‹avery.access_token›');

	await page.getByRole('contentinfo').getByRole('button', { name: /token/ }).click();
	await page.getByRole('region', { name: 'Tokens' }).getByRole('button', { name: 'forget it' }).first().click();
	await expect(page.getByRole('contentinfo')).not.toContainText('avery token');
});

test('a refused consent and an answer with a strange state say so', async ({ page, bench, context }) => {
	const url = await bench.project('refused');
	await page.goto(`${url}/credentials/avery`);
	await page.getByRole('button', { name: 'Ask the issuer' }).click();
	await page.getByRole('button', { name: 'Prepare the consent' }).click();
	await page
		.getByRole('textbox', { name: 'Address that came back' })
		.fill('http://x.example/?code=abc&state=of-another');
	await page.getByRole('button', { name: 'Take it' }).click();
	await expect(page.getByRole('alert').first()).toContainText('state');
	await page.getByRole('button', { name: 'Begin again' }).click();
	await page.getByRole('button', { name: 'Ask the issuer' }).click();
	await page.getByRole('button', { name: 'Prepare the consent' }).click();
	const opened = context.waitForEvent('page');
	await page.getByRole('link', { name: 'Open the consent page' }).click();
	const other = await opened;
	await other.getByRole('button', { name: 'Refuse' }).click();
	await expect(other.getByRole('heading', { name: 'This answer is of no use' })).toBeVisible();
	await other.close();
	await expect(page.getByRole('listitem', stage('Consent'))).toContainText('Consent was refused on the page');
});

test('a device code is confirmed elsewhere, and the page goes on by itself', async ({ page, bench, context }) => {
	const url = await bench.project('device');
	await page.goto(`${url}/credentials/kiosk`);
	await page.getByRole('button', { name: 'Ask the issuer' }).click();
	await page.getByRole('button', { name: 'Ask for a code' }).click();
	const opened = context.waitForEvent('page');
	await page.getByRole('link', { name: 'Open the page' }).click();
	const other = await opened;
	await other.getByRole('button', { name: 'Allow' }).click();
	await expect(other.getByRole('heading', { name: 'The device is signed in' })).toBeVisible();
	await other.close();
	await expect(page.getByRole('region', { name: 'The token' })).toBeVisible();
});

test('a recipe shows every value, and its test vector points to the first line that differs', async ({
	page,
	bench
}) => {
	const url = await bench.project('recipe');
	await page.goto(`${url}/credentials/gate-token`);
	const lines = page.getByRole('region', { name: 'Lines of the recipe' });
	await expect(lines.getByText('✓ the test vector agrees')).toBeVisible();
	const joined = lines.getByRole('row').filter({ has: page.getByRole('textbox', { name: 'Name of line 4' }) });
	await expect(joined).toContainText('POST↵');
	await expect(joined).toContainText('‹gateKey.made›');
	await accessible(page);
	// two parts are joined in the wrong order
	await write(
		lines.getByRole('textbox', { name: 'Expression of joined' }),
		'{$join([$request.method, $string($lines.time), $request.path, $lines.query, $lines.bodyDigest], "\\n")}'
	);
	await expect(lines.getByText('✗ the test vector differs, first at token')).toBeVisible();
	await lines.getByRole('button', { name: 'the test vector' }).click();
	const token = lines.getByRole('row').filter({ has: page.getByRole('textbox', { name: 'Name of line 5' }) });
	await expect(token).toContainText('expected');
	// a value of the line itself tells where it went wrong
	await page
		.getByRole('region', { name: 'Test vector' })
		.getByRole('combobox', { name: 'Expect a value of a line' })
		.selectOption('joined');
	await write(
		page.getByRole('region', { name: 'Test vector' }).getByRole('textbox', { name: 'Value of expected joined' }),
		'somewhat else'
	);
	await expect(lines.getByText('first at joined')).toBeVisible();
	await page.getByRole('heading', { name: 'Lines', exact: true }).click();
	const agrees = lines.getByText('✓ the test vector agrees');
	await expect(async () => {
		if (!(await agrees.isVisible())) await page.keyboard.press('Control+z');
		await expect(agrees).toBeVisible({ timeout: 1000 });
	}).toPass();
});

test('a new recipe starts from a ready one; a line that cannot be computed says why', async ({ page, bench }) => {
	const url = await bench.project('fresh-recipe');
	await page.goto(`${url}/connections?show=credentials`);
	await page.getByRole('button', { name: 'New credential' }).click();
	await page.getByRole('button', { name: /^Signature recipe/ }).click();
	await expect(page.getByRole('heading', { level: 1 })).toHaveText('New: Signature recipe');
	await page.getByRole('combobox', { name: 'Ready recipes' }).selectOption('canonical');
	const lines = page.getByRole('region', { name: 'Lines of the recipe' });
	await expect(lines.getByRole('textbox', { name: 'Name of line 7' })).toHaveValue('token');
	await expect(lines.getByText('$secret.sharedSecret is not set').first()).toBeVisible();
	await expect(lines).toContainText('HMAC-SHA256↵');
	await lines.getByRole('textbox', { name: 'Name of line 3' }).fill('digest');
	await lines.getByRole('textbox', { name: 'Name of line 3' }).press('Enter');
	await expect(lines.getByRole('textbox', { name: 'Expression of canonical' })).toContainText('$lines.digest');
});

test('a secret is written, used, shown on request, and taken out again', async ({ page, bench }) => {
	const url = await bench.project('vault');
	await page.goto(`${url}/credentials/warden`);
	await page.getByRole('combobox', { name: 'Kind of credential' }).selectOption('api-key');
	await write(page.getByRole('textbox', { name: 'Name', exact: true }), 'X-API-Key');
	await write(page.getByRole('textbox', { name: 'Key', exact: true }), 'plain-key-of-the-lock');
	await expect(page.getByText('this would stand in a file')).toBeVisible();
	await page.getByRole('button', { name: 'move it to the vault' }).click();
	await expect(page.getByText('set in local, never shown')).toBeVisible();
	await saved(page);
	const { files } = (await (await page.request.get(`${bench.url}/api/projects/vault/export`)).json()) as {
		files: { path: string; base64: string }[];
	};
	for (const { path, base64 } of files)
		expect(Buffer.from(base64, 'base64').toString('latin1'), path).not.toContain('plain-key-of-the-lock');
	await expect.poll(() => bench.file('vault', 'environments/local.yaml')).toContain('wardenKey');

	await page.goto(`${url}/values`);
	await page.getByRole('button', { name: 'Secret wardenKey in local: in the vault' }).click();
	const dialog = page.getByRole('dialog', { name: 'Secret wardenKey' });
	await expect(dialog).toContainText('never shown');
	await accessible(page);
	const hosts = dialog.getByRole('textbox', { name: 'may go to' });
	await hosts.fill('http://127.0.0.1/x');
	await hosts.press('Tab');
	await expect(dialog.getByText('“http://127.0.0.1/x” is no host')).toBeVisible();
	await hosts.fill('127.0.0.1, *.reedmere.example');
	await hosts.press('Tab');
	await expect(dialog.getByText('A call that would take it to another host is not sent.')).toBeVisible();
	await expect
		.poll(() => bench.file('vault', 'environments/local.yaml'))
		.toMatch(/wardenKey:\s+(- 127\.0\.0\.1\s+- "?\*|\[ ?127\.0\.0\.1, "?\*)\.reedmere\.example/);
	const needs = dialog.getByRole('checkbox', { name: /^local needs it/ });
	await expect(needs).toBeChecked();
	await needs.uncheck();
	const named = async () =>
		(parse(await bench.file('vault', 'environments/local.yaml')) as { secrets: string[] }).secrets.includes(
			'wardenKey'
		);
	await expect.poll(named).toBe(false);
	await needs.check();
	await expect.poll(named).toBe(true);
	await dialog.getByRole('button', { name: 'show it…' }).click();
	await dialog.getByRole('button', { name: 'Show it', exact: true }).click();
	await expect(dialog.getByText('plain-key-of-the-lock')).toBeVisible();
	await expect(dialog).toContainText('shown once');
	await dialog.getByRole('button', { name: 'take it out of the vault…' }).click();
	await dialog.getByRole('button', { name: 'Take it out of the vault', exact: true }).click();
	await expect(page.getByRole('button', { name: 'Secret wardenKey in local: not set' })).toBeVisible();
	await expect(page.getByRole('contentinfo')).toContainText('unresolved');
});
