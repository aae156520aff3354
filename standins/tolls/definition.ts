/** The namespaces of the toll ledger. */
const LEDGER = 'urn:reedmere:tolls';
export const TYPES = 'urn:reedmere:tolls:types';

/** What the ledger speaks of, as `tolls.xsd`. */
export const schema = `<?xml version="1.0" encoding="UTF-8"?>
<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns="${TYPES}" targetNamespace="${TYPES}" elementFormDefault="qualified">
  <xs:simpleType name="LockName">
    <xs:annotation><xs:documentation>A lock at which tolls are taken.</xs:documentation></xs:annotation>
    <xs:restriction base="xs:string">
      <xs:enumeration value="Staithe Lock"/>
      <xs:enumeration value="Mill Lock"/>
      <xs:enumeration value="Upper Staircase"/>
    </xs:restriction>
  </xs:simpleType>
  <xs:simpleType name="CraftKind">
    <xs:restriction base="xs:string">
      <xs:enumeration value="barge"/>
      <xs:enumeration value="cruiser"/>
      <xs:enumeration value="dinghy"/>
    </xs:restriction>
  </xs:simpleType>
  <xs:simpleType name="Metres">
    <xs:annotation><xs:documentation>From stem to stern.</xs:documentation></xs:annotation>
    <xs:restriction base="xs:decimal">
      <xs:minInclusive value="1"/>
      <xs:maxInclusive value="30"/>
      <xs:fractionDigits value="2"/>
    </xs:restriction>
  </xs:simpleType>
  <xs:simpleType name="Licence">
    <xs:annotation><xs:documentation>Two letters and six digits, as on the hull.</xs:documentation></xs:annotation>
    <xs:restriction base="xs:string"><xs:pattern value="[A-Z]{2}-[0-9]{6}"/></xs:restriction>
  </xs:simpleType>
  <xs:simpleType name="PassageNumber">
    <xs:restriction base="xs:string"><xs:pattern value="LP-[0-9]{5}"/></xs:restriction>
  </xs:simpleType>
  <xs:complexType name="Craft">
    <xs:sequence>
      <xs:element name="name">
        <xs:simpleType>
          <xs:restriction base="xs:string"><xs:minLength value="1"/><xs:maxLength value="40"/></xs:restriction>
        </xs:simpleType>
      </xs:element>
      <xs:element name="kind" type="CraftKind"/>
      <xs:element name="length" type="Metres"/>
      <xs:element name="licence" type="Licence" minOccurs="0"/>
    </xs:sequence>
  </xs:complexType>
  <xs:complexType name="Payment" abstract="true">
    <xs:annotation><xs:documentation>How the toll is paid.</xs:documentation></xs:annotation>
    <xs:sequence/>
  </xs:complexType>
  <xs:complexType name="CashPayment">
    <xs:complexContent><xs:extension base="Payment">
      <xs:sequence><xs:element name="pence" type="xs:positiveInteger"/></xs:sequence>
    </xs:extension></xs:complexContent>
  </xs:complexType>
  <xs:complexType name="TicketPayment">
    <xs:complexContent><xs:extension base="Payment">
      <xs:sequence>
        <xs:element name="ticket" type="xs:token"/>
        <xs:element name="journeys" type="xs:unsignedByte" default="1" minOccurs="0"/>
      </xs:sequence>
    </xs:extension></xs:complexContent>
  </xs:complexType>
  <xs:complexType name="Passage">
    <xs:sequence>
      <xs:element name="number" type="PassageNumber"/>
      <xs:element name="lock" type="LockName"/>
      <xs:element name="craft" type="Craft"/>
      <xs:element name="direction" type="Direction"/>
      <xs:element name="passedAt" type="xs:dateTime"/>
      <xs:element name="pence" type="xs:nonNegativeInteger"/>
    </xs:sequence>
  </xs:complexType>
  <xs:simpleType name="Direction">
    <xs:restriction base="xs:string"><xs:enumeration value="up"/><xs:enumeration value="down"/></xs:restriction>
  </xs:simpleType>

  <xs:element name="QuoteToll">
    <xs:complexType>
      <xs:sequence>
        <xs:element name="lock" type="LockName"/>
        <xs:element name="craft" type="Craft"/>
        <xs:choice>
          <xs:element name="on" type="xs:date"/>
          <xs:element name="season"><xs:simpleType><xs:restriction base="xs:string"><xs:enumeration value="summer"/><xs:enumeration value="winter"/></xs:restriction></xs:simpleType></xs:element>
        </xs:choice>
        <xs:element name="reduction" minOccurs="0" maxOccurs="3">
          <xs:complexType><xs:simpleContent><xs:extension base="xs:token"><xs:attribute name="percent" type="xs:unsignedByte" use="required"/></xs:extension></xs:simpleContent></xs:complexType>
        </xs:element>
      </xs:sequence>
    </xs:complexType>
  </xs:element>
  <xs:element name="QuoteTollResponse">
    <xs:complexType>
      <xs:sequence>
        <xs:element name="pence" type="xs:nonNegativeInteger"/>
        <xs:element name="line" maxOccurs="unbounded">
          <xs:complexType><xs:sequence><xs:element name="text" type="xs:string"/><xs:element name="pence" type="xs:integer"/></xs:sequence></xs:complexType>
        </xs:element>
      </xs:sequence>
    </xs:complexType>
  </xs:element>
  <xs:element name="RecordPassage">
    <xs:complexType>
      <xs:sequence>
        <xs:element name="lock" type="LockName"/>
        <xs:element name="craft" type="Craft"/>
        <xs:element name="direction" type="Direction"/>
        <xs:element name="passedAt" type="xs:dateTime"/>
        <xs:element name="payment" type="Payment"/>
        <xs:element name="remark" type="xs:string" nillable="true" minOccurs="0"/>
      </xs:sequence>
    </xs:complexType>
  </xs:element>
  <xs:element name="RecordPassageResponse">
    <xs:complexType><xs:sequence><xs:element name="number" type="PassageNumber"/><xs:element name="recordedAt" type="xs:dateTime"/></xs:sequence></xs:complexType>
  </xs:element>
  <xs:element name="FetchPassage">
    <xs:complexType><xs:sequence><xs:element name="number" type="PassageNumber"/></xs:sequence></xs:complexType>
  </xs:element>
  <xs:element name="FetchPassageResponse">
    <xs:complexType><xs:sequence><xs:element name="passage" type="Passage"/></xs:sequence></xs:complexType>
  </xs:element>
  <xs:element name="ListPassages">
    <xs:complexType><xs:sequence><xs:element name="lock" type="LockName" minOccurs="0"/></xs:sequence></xs:complexType>
  </xs:element>
  <xs:element name="ListPassagesResponse">
    <xs:complexType><xs:sequence><xs:element name="passage" type="Passage" minOccurs="0" maxOccurs="unbounded"/></xs:sequence></xs:complexType>
  </xs:element>
  <xs:element name="FetchReceipt">
    <xs:complexType><xs:sequence><xs:element name="number" type="PassageNumber"/></xs:sequence></xs:complexType>
  </xs:element>
  <xs:element name="FetchReceiptResponse">
    <xs:complexType><xs:sequence><xs:element name="name" type="xs:string"/><xs:element name="receipt" type="xs:base64Binary"/></xs:sequence></xs:complexType>
  </xs:element>
  <xs:element name="PassageFault">
    <xs:complexType>
      <xs:sequence>
        <xs:element name="field" type="xs:token"/>
        <xs:element name="limit" type="xs:decimal" minOccurs="0"/>
      </xs:sequence>
    </xs:complexType>
  </xs:element>
</xs:schema>
`;

const operations = ['QuoteToll', 'RecordPassage', 'FetchPassage', 'ListPassages', 'FetchReceipt'];
const docs: Record<string, string> = {
	QuoteToll: 'What a passage would cost.',
	RecordPassage: 'Enters a passage into the ledger. It wants a user name and password (WS-Security).',
	FetchPassage: 'One passage by its number.',
	ListPassages: 'All passages, or those of one lock.',
	FetchReceipt: 'The receipt of a passage, as an attachment.'
};

/** It promises no fault, the others do. */
const faultless = (operation: string): boolean => operation === 'ListPassages';

const messagesOf = (
	name: string
): string => `  <message name="${name}Request"><part name="parameters" element="t:${name}"/></message>
  <message name="${name}Answer"><part name="parameters" element="t:${name}Response"/></message>`;

const operationOf = (name: string): string => `    <operation name="${name}">
      <documentation>${docs[name]}</documentation>
      <input message="l:${name}Request"/>
      <output message="l:${name}Answer"/>${faultless(name) ? '' : '\n      <fault name="PassageFault" message="l:PassageFault"/>'}
    </operation>`;

const boundOf = (name: string, soap: string): string => `    <operation name="${name}">
      <${soap}:operation soapAction="${LEDGER}/${name}"/>${name === 'RecordPassage' ? '\n      <wsp:PolicyReference URI="#Clerk"/>' : ''}
      <input><${soap}:body use="literal"/></input>
      <output><${soap}:body use="literal"/></output>${faultless(name) ? '' : `\n      <fault name="PassageFault"><${soap}:fault name="PassageFault" use="literal"/></fault>`}
    </operation>`;

const bindingOf = (name: string, soap: string): string => `  <binding name="${name}" type="l:Ledger">
    <${soap}:binding style="document" transport="http://schemas.xmlsoap.org/soap/http"/>
${operations.map((operation) => boundOf(operation, soap)).join('\n')}
  </binding>`;

/** The definition, as \`?wsdl\` gives it. @param origin where the server listens, such as http://127.0.0.1:4684 */
export function wsdl(origin: string): string {
	return `<?xml version="1.0" encoding="UTF-8"?>
<definitions name="Tolls" targetNamespace="${LEDGER}" xmlns="http://schemas.xmlsoap.org/wsdl/" xmlns:l="${LEDGER}" xmlns:t="${TYPES}"
  xmlns:soap="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:soap12="http://schemas.xmlsoap.org/wsdl/soap12/" xmlns:xs="http://www.w3.org/2001/XMLSchema"
  xmlns:wsp="http://www.w3.org/ns/ws-policy" xmlns:wsu="http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-utility-1.0.xsd" xmlns:sp="http://docs.oasis-open.org/ws-sx/ws-securitypolicy/200702">
  <documentation>The toll ledger of Reedmere Waterways.</documentation>
  <wsp:Policy wsu:Id="Clerk"><sp:SupportingTokens><wsp:Policy><sp:UsernameToken><wsp:Policy><sp:HashPassword/></wsp:Policy></sp:UsernameToken></wsp:Policy></sp:SupportingTokens></wsp:Policy>
  <types>
    <xs:schema><xs:import namespace="${TYPES}" schemaLocation="tolls.xsd"/></xs:schema>
  </types>
${operations.map(messagesOf).join('\n')}
  <message name="PassageFault"><part name="fault" element="t:PassageFault"/></message>
  <message name="CountRequest"><part name="lock" type="t:LockName"/><part name="kind" type="t:CraftKind"/></message>
  <message name="CountAnswer"><part name="passages" type="xs:int"/></message>
  <portType name="Ledger">
${operations.map(operationOf).join('\n')}
  </portType>
  <portType name="Desk">
    <operation name="CountPassages">
      <documentation>How many craft of a kind passed a lock.</documentation>
      <input message="l:CountRequest"/>
      <output message="l:CountAnswer"/>
    </operation>
  </portType>
${bindingOf('Ledger11', 'soap')}
${bindingOf('Ledger12', 'soap12')}
  <binding name="Desk11" type="l:Desk">
    <soap:binding style="rpc" transport="http://schemas.xmlsoap.org/soap/http"/>
    <operation name="CountPassages">
      <soap:operation soapAction="${LEDGER}/CountPassages"/>
      <input><soap:body use="literal" namespace="${LEDGER}"/></input>
      <output><soap:body use="literal" namespace="${LEDGER}"/></output>
    </operation>
  </binding>
  <service name="TollLedger">
    <port name="TollLedger11" binding="l:Ledger11"><soap:address location="${origin}/ledger"/></port>
    <port name="TollLedger12" binding="l:Ledger12"><soap12:address location="${origin}/ledger12"/></port>
  </service>
  <service name="TollDesk">
    <port name="TollDesk11" binding="l:Desk11"><soap:address location="${origin}/desk"/></port>
  </service>
</definitions>
`;
}
