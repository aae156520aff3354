import type { JsonObject } from '../../model/json.ts';

/** Recipes to start from. */
export const readyRecipes: { key: string; label: string; value: JsonObject }[] = [
	{
		key: 'joined',
		label: 'Keyed digest of time, path, query and body',
		value: {
			lines: {
				time: '{$epoch()}',
				joined: '{$lines.time}{$request.path}{$request.query}{$request.body}',
				token: '{$hmac("sha256", $secret.sharedSecret, $lines.joined, "hex")}'
			},
			put: { header: { 'X-Time': '{$lines.time}', 'X-Token': '{$lines.token}' } }
		}
	},
	{
		key: 'canonical',
		label: 'HMAC of a canonical request with derived keys',
		value: {
			lines: {
				time: '{$date("yyyyMMddTHHmmssZ")}',
				day: '{$substring($lines.time, 0, 8)}',
				bodyDigest: '{$hash("sha256", $request.bytes)}',
				headers: '{$headerLines($request.headers, ["host"])}',
				canonical:
					'{$join([$request.method, $request.path, $canonicalQuery($request.query), $lines.headers, "", $lines.bodyDigest], "\\n")}',
				toSign: '{$join(["HMAC-SHA256", $lines.time, $hash("sha256", $lines.canonical)], "\\n")}',
				token:
					'{$hmac("sha256", $hmac("sha256", $hmac("sha256", $secret.sharedSecret, $lines.day, "bytes"), "request", "bytes"), $lines.toSign)}'
			},
			put: { header: { 'X-Time': '{$lines.time}', Authorization: 'HMAC-SHA256 Signed=host, Signature={$lines.token}' } }
		}
	},
	{
		key: 'signed-headers',
		label: 'Body digest header with signed headers',
		value: {
			lines: {
				date: '{$date("http")}',
				digest: 'sha-256=:{$hash("sha256", $request.bytes, "base64")}:',
				toSign:
					'{$join(["(request-target): " & $lowercase($request.method) & " " & $request.target, "host: " & $request.host, "date: " & $lines.date, "content-digest: " & $lines.digest], "\\n")}',
				signature: '{$hmac("sha256", $secret.sharedSecret, $lines.toSign, "base64")}'
			},
			put: {
				header: {
					Date: '{$lines.date}',
					'Content-Digest': '{$lines.digest}',
					Signature:
						'keyId="key-1",algorithm="hmac-sha256",headers="(request-target) host date content-digest",signature="{$lines.signature}"'
				}
			}
		}
	}
];
