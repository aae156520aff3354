import { XmlDocument, XsdValidator } from 'libxml2-wasm';

// The shape that build servers agree on: testsuites > testsuite > testcase > (failure | error | skipped).
const XSD = `<?xml version="1.0"?>
<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema">
  <xs:complexType name="fault"><xs:simpleContent><xs:extension base="xs:string">
    <xs:attribute name="message" type="xs:string"/><xs:attribute name="type" type="xs:string"/>
  </xs:extension></xs:simpleContent></xs:complexType>
  <xs:element name="testcase"><xs:complexType><xs:sequence>
    <xs:choice minOccurs="0" maxOccurs="unbounded">
      <xs:element name="skipped"><xs:complexType><xs:attribute name="message" type="xs:string"/></xs:complexType></xs:element>
      <xs:element name="error" type="fault"/><xs:element name="failure" type="fault"/>
      <xs:element name="system-out" type="xs:string"/><xs:element name="system-err" type="xs:string"/>
    </xs:choice></xs:sequence>
    <xs:attribute name="name" type="xs:string" use="required"/><xs:attribute name="classname" type="xs:string" use="required"/>
    <xs:attribute name="time" type="xs:decimal"/>
  </xs:complexType></xs:element>
  <xs:element name="testsuite"><xs:complexType><xs:sequence><xs:element ref="testcase" minOccurs="0" maxOccurs="unbounded"/></xs:sequence>
    <xs:attribute name="name" type="xs:string" use="required"/><xs:attribute name="tests" type="xs:nonNegativeInteger" use="required"/>
    <xs:attribute name="failures" type="xs:nonNegativeInteger" use="required"/><xs:attribute name="errors" type="xs:nonNegativeInteger" use="required"/>
    <xs:attribute name="skipped" type="xs:nonNegativeInteger"/><xs:attribute name="time" type="xs:decimal"/><xs:attribute name="timestamp" type="xs:dateTime"/>
  </xs:complexType></xs:element>
  <xs:element name="testsuites"><xs:complexType><xs:sequence><xs:element ref="testsuite" minOccurs="0" maxOccurs="unbounded"/></xs:sequence>
    <xs:attribute name="name" type="xs:string"/><xs:attribute name="tests" type="xs:nonNegativeInteger"/><xs:attribute name="failures" type="xs:nonNegativeInteger"/>
    <xs:attribute name="errors" type="xs:nonNegativeInteger"/><xs:attribute name="time" type="xs:decimal"/>
  </xs:complexType></xs:element>
</xs:schema>`;

/** What is wrong with a JUnit XML report; nothing when it fits the common shape. */
export async function validateJUnit(xml: string): Promise<string[]> {
	const schema = XmlDocument.fromString(XSD);
	const validator = XsdValidator.fromDoc(schema);
	try {
		const document = XmlDocument.fromString(xml);
		validator.validate(document);
		document.dispose();
		return [];
	} catch (error) {
		return [(error as Error).message];
	} finally {
		validator.dispose();
		schema.dispose();
	}
}
