import { XML_NAMESPACE } from './envelope.ts';
import { SOAP_ENCODING, XSD } from './schema/index.ts';
import { DS, WSSE, WSU } from '../model/ws-security.ts';

const XOP = 'http://www.w3.org/2004/08/xop/include';
const XMLMIME = 'http://www.w3.org/2005/05/xmlmime';

/** Namespaces whose parts are known here; nobody has to be asked for their schemas. */
const KNOWN = new Set([XML_NAMESPACE, SOAP_ENCODING]);

const WSA = 'http://www.w3.org/2005/08/addressing';
const WSA_SUBMISSION = 'http://schemas.xmlsoap.org/ws/2004/08/addressing';
const OTHERS = '<xs:anyAttribute namespace="##other" processContents="lax"/>';
const ANYTHING = '<xs:any namespace="##any" processContents="lax" minOccurs="0" maxOccurs="unbounded"/>';
const ANYTHING_ELSE = '<xs:any namespace="##other" processContents="lax" minOccurs="0" maxOccurs="unbounded"/>';
/** A schema whose own names have the prefix `t`. */
const schemaOf = (namespace: string, content: string, more = ''): string =>
	`<xs:schema xmlns:xs="${XSD}" xmlns:t="${namespace}"${more} targetNamespace="${namespace}" elementFormDefault="qualified">\n${content}\n</xs:schema>`;
const element = (name: string, type: string): string => `<xs:element name="${name}" type="${type}"/>`;
const content = (name: string, sequence: string): string =>
	`<xs:complexType name="${name}"><xs:sequence>${sequence}</xs:sequence>${OTHERS}</xs:complexType>`;
const extended = (name: string, base: string, attributes = ''): string =>
	`<xs:complexType name="${name}"><xs:simpleContent><xs:extension base="${base}">${attributes}</xs:extension></xs:simpleContent></xs:complexType>`;

/** Web Services Addressing 1.0 - Core and SOAP Binding. */
const ADDRESSING = [
	...['EndpointReference', 'ReplyTo', 'From', 'FaultTo'].map((name) => element(name, 't:EndpointReferenceType')),
	...['MessageID', 'To', 'Action', 'ProblemIRI'].map((name) => element(name, 't:AttributedURIType')),
	content(
		'EndpointReferenceType',
		`<xs:element name="Address" type="t:AttributedURIType"/><xs:element ref="t:ReferenceParameters" minOccurs="0"/><xs:element ref="t:Metadata" minOccurs="0"/>${ANYTHING_ELSE}`
	),
	element('ReferenceParameters', 't:ReferenceParametersType'),
	content('ReferenceParametersType', ANYTHING),
	element('Metadata', 't:MetadataType'),
	content('MetadataType', ANYTHING),
	element('RelatesTo', 't:RelatesToType'),
	extended(
		'RelatesToType',
		'xs:anyURI',
		`<xs:attribute name="RelationshipType" type="xs:anyURI" default="${WSA}/reply"/>${OTHERS}`
	),
	extended('AttributedURIType', 'xs:anyURI', OTHERS),
	'<xs:attribute name="IsReferenceParameter" type="xs:boolean"/>',
	element('RetryAfter', 't:AttributedUnsignedLongType'),
	extended('AttributedUnsignedLongType', 'xs:unsignedLong', OTHERS),
	element('ProblemHeaderQName', 't:AttributedQNameType'),
	extended('AttributedQNameType', 'xs:QName', OTHERS),
	element('ProblemAction', 't:ProblemActionType'),
	content(
		'ProblemActionType',
		'<xs:element ref="t:Action" minOccurs="0"/><xs:element name="SoapAction" minOccurs="0" type="xs:anyURI"/>'
	)
].join('\n');

/** The member submission of August 2004 that came before it. */
const SUBMISSION = [
	...['EndpointReference', 'ReplyTo', 'From', 'FaultTo'].map((name) => element(name, 't:EndpointReferenceType')),
	...['MessageID', 'To', 'Action'].map((name) => element(name, 't:AttributedURI')),
	content(
		'EndpointReferenceType',
		`<xs:element name="Address" type="t:AttributedURI"/><xs:element name="ReferenceProperties" type="t:ReferencePropertiesType" minOccurs="0"/><xs:element name="ReferenceParameters" type="t:ReferenceParametersType" minOccurs="0"/><xs:element name="PortType" type="t:AttributedQName" minOccurs="0"/><xs:element name="ServiceName" type="t:ServiceNameType" minOccurs="0"/>${ANYTHING_ELSE}`
	),
	content('ReferencePropertiesType', ANYTHING),
	content('ReferenceParametersType', ANYTHING),
	extended('ServiceNameType', 'xs:QName', `<xs:attribute name="PortName" type="xs:NCName"/>${OTHERS}`),
	element('RelatesTo', 't:Relationship'),
	extended('Relationship', 'xs:anyURI', `<xs:attribute name="RelationshipType" type="xs:QName"/>${OTHERS}`),
	element('ReplyAfter', 't:ReplyAfterType'),
	extended('ReplyAfterType', 'xs:nonNegativeInteger', OTHERS),
	extended('AttributedQName', 'xs:QName', OTHERS),
	extended('AttributedURI', 'xs:anyURI', OTHERS),
	'<xs:attribute name="Action" type="xs:anyURI"/>'
].join('\n');

/** Web Services Security: SOAP Message Security 1.0 and 1.1, utility and extension. */
const UTILITY = [
	'<xs:attribute name="Id" type="xs:ID"/>',
	`<xs:attributeGroup name="commonAtts"><xs:attribute ref="t:Id"/>${OTHERS}</xs:attributeGroup>`,
	extended('AttributedDateTime', 'xs:string', '<xs:attributeGroup ref="t:commonAtts"/>'),
	extended('AttributedURI', 'xs:anyURI', '<xs:attributeGroup ref="t:commonAtts"/>'),
	`<xs:complexType name="TimestampType"><xs:sequence><xs:element ref="t:Created" minOccurs="0"/><xs:element ref="t:Expires" minOccurs="0"/>${ANYTHING_ELSE}</xs:sequence><xs:attributeGroup ref="t:commonAtts"/></xs:complexType>`,
	element('Timestamp', 't:TimestampType'),
	element('Created', 't:AttributedDateTime'),
	element('Expires', 't:AttributedDateTime')
].join('\n');
const ID = '<xs:attribute ref="u:Id"/>';
const withId = (name: string, sequence: string, more = ''): string =>
	`<xs:complexType name="${name}"><xs:sequence>${sequence}</xs:sequence>${more}${ID}${OTHERS}</xs:complexType>`;
const SECURITY = [
	`<xs:import namespace="${WSU}"/>`,
	extended('AttributedString', 'xs:string', `${ID}${OTHERS}`),
	extended('PasswordString', 't:AttributedString', '<xs:attribute name="Type" type="xs:anyURI"/>'),
	extended('EncodedString', 't:AttributedString', '<xs:attribute name="EncodingType" type="xs:anyURI"/>'),
	withId('UsernameTokenType', `<xs:element name="Username" type="t:AttributedString"/>${ANYTHING}`),
	extended('BinarySecurityTokenType', 't:EncodedString', '<xs:attribute name="ValueType" type="xs:anyURI"/>'),
	extended('KeyIdentifierType', 't:EncodedString', '<xs:attribute name="ValueType" type="xs:anyURI"/>'),
	`<xs:complexType name="ReferenceType"><xs:attribute name="URI" type="xs:anyURI"/><xs:attribute name="ValueType" type="xs:anyURI"/>${OTHERS}</xs:complexType>`,
	`<xs:complexType name="EmbeddedType"><xs:choice minOccurs="0" maxOccurs="unbounded"><xs:any namespace="##any" processContents="lax"/></xs:choice><xs:attribute name="ValueType" type="xs:anyURI"/>${OTHERS}</xs:complexType>`,
	withId('SecurityTokenReferenceType', ANYTHING, '<xs:attribute name="Usage" type="xs:string"/>'),
	content('SecurityHeaderType', ANYTHING),
	content('TransformationParametersType', ANYTHING),
	...Object.entries({
		...{ UsernameToken: 'UsernameTokenType', Password: 'PasswordString', Nonce: 'EncodedString' },
		...{
			BinarySecurityToken: 'BinarySecurityTokenType',
			KeyIdentifier: 'KeyIdentifierType',
			Reference: 'ReferenceType'
		},
		...{
			Embedded: 'EmbeddedType',
			SecurityTokenReference: 'SecurityTokenReferenceType',
			Security: 'SecurityHeaderType'
		},
		...{ TransformationParameters: 'TransformationParametersType' }
	}).map(([name, type]) => element(name, `t:${type}`))
].join('\n');

/**
 * Schemas of standards that definitions import from where they were published: XML-binary Optimized Packaging
 * (section 2.1), Describing Media Content of Binary Data in XML (section 2), WS-Addressing, and WS-Security. Signatures are
 * known by their root alone.
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
</xs:schema>`,
	[WSA]: schemaOf(WSA, ADDRESSING),
	[WSA_SUBMISSION]: schemaOf(WSA_SUBMISSION, SUBMISSION),
	[WSU]: schemaOf(WSU, UTILITY),
	[WSSE]: schemaOf(WSSE, SECURITY, ` xmlns:u="${WSU}"`),
	[DS]: schemaOf(DS, [element('Signature', 't:SignatureType'), content('SignatureType', ANYTHING)].join(''))
};

/** The schema of a standard's namespace that comes with the application. */
export const shippedSchema = (namespace: string | undefined): string | undefined =>
	namespace !== undefined && Object.hasOwn(SHIPPED, namespace) ? SHIPPED[namespace] : undefined;
/** Whether an import of a namespace needs no file. */
export const needsNoFile = (namespace: string | undefined): boolean =>
	namespace !== undefined && (KNOWN.has(namespace) || Object.hasOwn(SHIPPED, namespace));
