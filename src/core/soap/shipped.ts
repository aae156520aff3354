import { XML_NAMESPACE } from './envelope.ts';
import { SOAP_ENCODING, XSD } from './schema.ts';

const XOP = 'http://www.w3.org/2004/08/xop/include';
const XMLMIME = 'http://www.w3.org/2005/05/xmlmime';

/** Namespaces whose parts are known here; nobody has to be asked for their schemas. */
const KNOWN = new Set([XML_NAMESPACE, SOAP_ENCODING]);

/**
 * Schemas of standards that definitions import from where they were published: XML-binary Optimized Packaging
 * (section 2.1) and Describing Media Content of Binary Data in XML (section 2).
 */
const SHIPPED: Readonly<Record<string, string>> = {
	[XOP]: `<xs:schema xmlns:xs="${XSD}" xmlns:tns="${XOP}" targetNamespace="${XOP}" elementFormDefault="qualified">
<xs:element name="Include" type="tns:Include"/>
<xs:complexType name="Include"><xs:sequence><xs:any namespace="##other" processContents="lax" minOccurs="0" maxOccurs="unbounded"/></xs:sequence><xs:attribute name="href" type="xs:anyURI" use="required"/><xs:anyAttribute namespace="##other" processContents="lax"/></xs:complexType>
</xs:schema>`,
	[XMLMIME]: `<xs:schema xmlns:xs="${XSD}" xmlns:xmime="${XMLMIME}" targetNamespace="${XMLMIME}">
<xs:attribute name="contentType"><xs:simpleType><xs:restriction base="xs:string"><xs:minLength value="3"/></xs:restriction></xs:simpleType></xs:attribute>
<xs:attribute name="expectedContentTypes" type="xs:string"/>
<xs:complexType name="base64Binary"><xs:simpleContent><xs:extension base="xs:base64Binary"><xs:attribute ref="xmime:contentType"/></xs:extension></xs:simpleContent></xs:complexType>
<xs:complexType name="hexBinary"><xs:simpleContent><xs:extension base="xs:hexBinary"><xs:attribute ref="xmime:contentType"/></xs:extension></xs:simpleContent></xs:complexType>
</xs:schema>`
};

/** The schema of a standard's namespace that comes with the application. */
export const shippedSchema = (namespace: string | undefined): string | undefined =>
	namespace !== undefined && Object.hasOwn(SHIPPED, namespace) ? SHIPPED[namespace] : undefined;
/** Whether an import of a namespace needs no file. */
export const needsNoFile = (namespace: string | undefined): boolean =>
	namespace !== undefined && (KNOWN.has(namespace) || Object.hasOwn(SHIPPED, namespace));
