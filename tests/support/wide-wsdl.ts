const VALUES = ['text', 7, '2027-05-14', true];

/** A WSDL with one operation that takes groups of fields, and a collection that calls it with all of them. */
export function wideDefinition(groups: number, fields: number): Record<string, string> {
	const group = Array.from({ length: fields }, (_, n) => {
		const type = ['string', 'int', 'date', 'boolean'][n % 4];
		return `<xs:element name="field${n}" type="xs:${type}" minOccurs="0"/>`;
	}).join('');
	const all = Array.from({ length: groups }, (_, n) => `<xs:element name="part${n}" type="t:Group"/>`).join('');
	const part = Object.fromEntries(Array.from({ length: fields }, (_, n) => [`field${n}`, VALUES[n % 4]]));
	const values = Object.fromEntries(Array.from({ length: groups }, (_, n) => [`part${n}`, part]));
	return {
		'definitions/wide/wide.wsdl': `<definitions xmlns="http://schemas.xmlsoap.org/wsdl/" xmlns:s="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:t="urn:wide" xmlns:xs="http://www.w3.org/2001/XMLSchema" targetNamespace="urn:wide"><types><xs:schema targetNamespace="urn:wide" elementFormDefault="qualified"><xs:complexType name="Group"><xs:sequence>${group}</xs:sequence></xs:complexType><xs:element name="All"><xs:complexType><xs:sequence>${all}</xs:sequence></xs:complexType></xs:element><xs:element name="Done" type="xs:string"/></xs:schema></types><message name="in"><part name="p" element="t:All"/></message><message name="out"><part name="p" element="t:Done"/></message><portType name="pt"><operation name="All"><input message="t:in"/><output message="t:out"/></operation></portType><binding name="b" type="t:pt"><s:binding transport="http://schemas.xmlsoap.org/soap/http"/><operation name="All"><s:operation soapAction=""/><input><s:body use="literal"/></input><output><s:body use="literal"/></output></operation></binding><service name="Wide"><port name="p" binding="t:b"><s:address location="http://127.0.0.1:4683/"/></port></service></definitions>`,
		'collections/wide.yaml': `heron: 1\nconnection: tolls\nscenarios:\n  - id: s\n    steps:\n      - id: all\n        send: POST /\n        body: { soap: { operation: Wide.All, version: "1.1", values: ${JSON.stringify(values)} } }\n`
	};
}
