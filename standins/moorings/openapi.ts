type Schema = Record<string, unknown>;

const ref = (name: string): Schema => ({ $ref: `#/components/schemas/${name}` });
const json = (schema: Schema, description: string): Schema => ({
	description,
	content: { 'application/json': { schema } }
});
const fault = (description: string): Schema => ({
	description,
	content: { 'application/problem+json': { schema: ref('Problem') } }
});
const none = (description: string): Schema => ({ description });
const param = (name: string, where: string, schema: Schema): Schema => ({
	name,
	in: where,
	required: where === 'path',
	schema
});
const body = (schema: Schema, type = 'application/json'): Schema => ({
	required: true,
	content: { [type]: { schema } }
});
const text: Schema = { type: 'string' };
const time: Schema = { type: 'string', format: 'date-time' };
const object = (properties: Record<string, Schema>, required = Object.keys(properties)): Schema => ({
	type: 'object',
	properties,
	required,
	additionalProperties: false
});
const links = object({ self: text });
const secured = [{ session: [] }];

const bookingFields = {
	mooring: text,
	boat: { type: 'string', minLength: 1 },
	from: { type: 'string', format: 'date' },
	nights: { type: 'integer', minimum: 1, maximum: 28 }
};
const permitForm: Schema = {
	type: 'object',
	required: ['details', 'scan'],
	properties: {
		details: object({ boat: text, kind: text }, ['boat']),
		scan: { type: 'string', contentEncoding: 'binary' }
	}
};
const reference = [param('reference', 'path', { type: 'string', pattern: '^RW-\\d{6}$' })];
const permitId = [param('id', 'path', text)];
const bookingAnswers = {
	'200': json(ref('Booking'), 'The booking.'),
	'401': fault('No token.'),
	'404': fault('No such booking.')
};
const changeAnswers = { ...bookingAnswers, '409': fault('It is cancelled.'), '422': fault('It cannot be so.') };

const schemas: Record<string, Schema> = {
	Problem: {
		type: 'object',
		required: ['type', 'title', 'status', 'detail'],
		properties: {
			type: text,
			title: text,
			status: { type: 'integer' },
			detail: text,
			faults: { type: 'array', items: object({ field: text, message: text }) },
			reference: text
		}
	},
	Session: object({ token: text, clerk: text, expiresAt: time }),
	Mooring: object({
		id: text,
		name: text,
		basin: { enum: ['Upper', 'Lower', 'Mill'] },
		lengthMetres: { type: 'integer' },
		state: { enum: ['free', 'occupied', 'closed'] },
		pencePerNight: { type: 'integer' },
		links
	}),
	Moorings: object({
		items: { type: 'array', items: ref('Mooring') },
		total: { type: 'integer' },
		page: { type: 'integer' },
		size: { type: 'integer' },
		links: object({ next: text }, [])
	}),
	NewBooking: object(bookingFields),
	Booking: object({
		...bookingFields,
		reference: { type: 'string', pattern: '^RW-\\d{6}$' },
		status: { enum: ['confirmed', 'cancelled'] },
		createdAt: time,
		updatedAt: time,
		links
	}),
	Permit: object({
		id: text,
		boat: text,
		kind: text,
		file: object({
			name: text,
			type: text,
			size: { type: 'integer' },
			sha256: { type: 'string', pattern: '^[0-9a-f]{64}$' }
		}),
		createdAt: time,
		updatedAt: time,
		links
	}),
	Gauges: object({
		items: {
			type: 'array',
			items: object({
				id: text,
				name: text,
				readings: {
					type: 'array',
					items: object({ at: time, levelMetres: { type: 'number' }, flags: { type: 'array', items: text } })
				}
			})
		}
	}),
	Notice: object({ reference: text, text })
};

const paths: Schema = {
	'/health': {
		get: {
			operationId: 'health',
			responses: { '200': json(object({ status: { const: 'ok' }, edition: text, time }), 'It is up.') }
		}
	},
	'/reset': { post: { operationId: 'reset', responses: { '204': none('All data is as at the start.') } } },
	'/sessions': {
		post: {
			operationId: 'signIn',
			requestBody: body(object({ user: text, password: text })),
			responses: { '201': json(ref('Session'), 'A token.'), '401': fault('Wrong user or password.') }
		}
	},
	'/moorings': {
		get: {
			operationId: 'listMoorings',
			parameters: [
				param('state', 'query', { enum: ['free', 'occupied', 'closed'] }),
				param('basin', 'query', text),
				param('page', 'query', { type: 'integer', minimum: 1 }),
				param('size', 'query', { type: 'integer', minimum: 1, maximum: 100 })
			],
			responses: { '200': json(ref('Moorings'), 'A page of moorings.'), '400': fault('A wrong page or size.') }
		}
	},
	'/moorings/{id}': {
		get: {
			operationId: 'getMooring',
			parameters: permitId,
			responses: { '200': json(ref('Mooring'), 'The mooring.'), '404': fault('No such mooring.') }
		}
	},
	'/bookings': {
		post: {
			operationId: 'book',
			security: secured,
			requestBody: body(ref('NewBooking')),
			responses: {
				'201': json(ref('Booking'), 'Booked.'),
				'401': fault('No token.'),
				'409': fault('Taken.'),
				'422': fault('It cannot be so.')
			}
		}
	},
	'/bookings/{reference}': {
		get: { operationId: 'getBooking', security: secured, parameters: reference, responses: bookingAnswers },
		put: {
			operationId: 'replaceBooking',
			security: secured,
			parameters: reference,
			requestBody: body(ref('NewBooking')),
			responses: changeAnswers
		},
		patch: {
			operationId: 'changeBooking',
			security: secured,
			parameters: reference,
			requestBody: body(object(bookingFields, [])),
			responses: changeAnswers
		},
		delete: {
			operationId: 'cancelBooking',
			security: secured,
			parameters: reference,
			responses: {
				'204': none('Cancelled.'),
				'401': fault('No token.'),
				'404': fault('No such booking.'),
				'409': fault('Cancelled already.')
			}
		}
	},
	'/noticeboard/{reference}': {
		get: {
			operationId: 'notice',
			parameters: reference,
			responses: { '200': json(ref('Notice'), 'The notice.'), '404': fault('Not there, or not yet.') }
		}
	},
	'/gauges': {
		get: { operationId: 'gauges', responses: { '200': json(ref('Gauges'), 'All gauges with their readings.') } }
	},
	'/permits': {
		post: {
			operationId: 'addPermit',
			security: secured,
			requestBody: body(permitForm, 'multipart/form-data'),
			responses: {
				'201': json(ref('Permit'), 'Taken.'),
				'400': fault('Not JSON.'),
				'401': fault('No token.'),
				'415': fault('Not multipart.'),
				'422': fault('A part is missing.')
			}
		}
	},
	'/permits/{id}': {
		get: {
			operationId: 'getPermit',
			parameters: permitId,
			responses: { '200': json(ref('Permit'), 'The permit.'), '404': fault('No such permit.') }
		},
		put: {
			operationId: 'replacePermit',
			security: secured,
			parameters: permitId,
			requestBody: body(permitForm, 'multipart/form-data'),
			responses: {
				'200': json(ref('Permit'), 'Replaced.'),
				'401': fault('No token.'),
				'404': fault('No such permit.'),
				'422': fault('A part is missing.')
			}
		},
		delete: {
			operationId: 'deletePermit',
			security: secured,
			parameters: permitId,
			responses: { '204': none('Gone.'), '401': fault('No token.'), '404': fault('No such permit.') }
		}
	},
	'/slow': {
		get: {
			operationId: 'slow',
			parameters: [param('ms', 'query', { type: 'integer' })],
			responses: { '200': json(object({ waitedMs: { type: 'integer' } }), 'After a while.') }
		}
	},
	'/flaky': {
		get: {
			operationId: 'flaky',
			responses: { '200': json(object({ status: text }), 'Every third time.'), '503': fault('The other times.') }
		}
	},
	'/limited': {
		get: {
			operationId: 'limited',
			responses: {
				'200': json(object({ left: { type: 'integer' } }), 'Within the limit.'),
				'429': fault('Over it; Retry-After says when.')
			}
		}
	}
};

/** The definition of the moorings service (OpenAPI 3.1). */
export const openapi = (server: string): Schema => ({
	openapi: '3.1.0',
	info: {
		title: 'Reedmere Waterways: moorings',
		version: '1.0.0',
		description: 'Moorings, bookings, permits and gauges of an invented canal.'
	},
	servers: [{ url: server }],
	paths,
	components: { schemas, securitySchemes: { session: { type: 'http', scheme: 'bearer' } } }
});
