import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import { identifiersFor } from './names.ts';

/* Data sets as entity sets of OData v4 (OASIS 4.01), which many programs read by themselves. */

export interface Property {
  readonly name: string;
  readonly field: Field;
}

export interface EntitySet {
  readonly name: string;
  readonly id: string;
  readonly title: string;
  readonly properties: readonly Property[];
  /** The property that a record is known by; null where its data set has no key. */
  readonly key: Property | null;
  readonly dataSet: DataSet;
}

const edm: Readonly<Record<FieldType, string>> = {
  text: 'Edm.String',
  integer: 'Edm.Int64',
  decimal: 'Edm.Decimal',
  float: 'Edm.Double',
  boolean: 'Edm.Boolean',
  date: 'Edm.Date',
  instant: 'Edm.DateTimeOffset',
  nested: 'Edm.String',
};

/** Data sets under names that addresses can have. One with an input that has to be said cannot be asked, and is left out. */
export function entitySets(
  dataSets: readonly { readonly id: string; readonly name: string; readonly definition: DataSet }[],
): EntitySet[] {
  const askable = dataSets.filter(({ definition }) => definition.inputs.every(({ required }) => !required));
  const names = identifiersFor(askable.map(({ name }) => name));
  return askable.map(({ id, name: title, definition }, at) => {
    const own = identifiersFor(definition.fields.map(({ name }) => name));
    const properties = definition.fields.map((field, index) => ({ name: own[index] ?? field.name, field }));
    return {
      name: names[at] ?? title,
      id,
      title,
      properties,
      key: properties.find(({ field }) => field.name === definition.key) ?? null,
      dataSet: definition,
    };
  });
}

const escaped = (text: string): string => text.replace(/[&<>"']/g, (mark) => `&#${mark.charCodeAt(0)};`);

/** What there is, as XML (CSDL 4.01). */
export function metadata(sets: readonly EntitySet[]): string {
  const types = sets.map(
    ({ name, properties, key }) => `      <EntityType Name="${name}Record">
${key ? `        <Key><PropertyRef Name="${key.name}"/></Key>\n` : ''}${properties
  .map(
    (property) =>
      `        <Property Name="${property.name}" Type="${edm[property.field.type]}"${property === key ? ' Nullable="false"' : ''}${property.field.type === 'decimal' ? ' Scale="variable"' : ''}>${
        property.field.label
          ? `<Annotation Term="Core.Description" String="${escaped(property.field.label)}"/>`
          : ''
      }</Property>`,
  )
  .join('\n')}
      </EntityType>`,
  );
  return `<?xml version="1.0" encoding="utf-8"?>
<edmx:Edmx Version="4.01" xmlns:edmx="http://docs.oasis-open.org/odata/ns/edmx">
  <edmx:Reference Uri="https://oasis-tcs.github.io/odata-vocabularies/vocabularies/Org.OData.Core.V1.xml"><edmx:Include Namespace="Org.OData.Core.V1" Alias="Core"/></edmx:Reference>
  <edmx:DataServices>
    <Schema Namespace="Slate" xmlns="http://docs.oasis-open.org/odata/ns/edm">
${types.join('\n')}
      <EntityContainer Name="Results">
${sets.map(({ name }) => `        <EntitySet Name="${name}" EntityType="Slate.${name}Record"/>`).join('\n')}
      </EntityContainer>
    </Schema>
  </edmx:DataServices>
</edmx:Edmx>
`;
}

/** A value in JSON with every digit; `asText`: numbers that a double cannot hold are texts (IEEE754Compatible). */
export function jsonValue(cell: Cell, type: FieldType, asText: boolean): string {
  if (cell === null || cell === undefined) return 'null';
  const text = String(cell);
  switch (type) {
    case 'integer':
    case 'decimal':
      // What is no number, such as a decimal's NaN, is no JSON number either.
      return asText || !/^-?\d+(\.\d+)?([eE][+-]?\d+)?$/.test(text) ? JSON.stringify(text) : text;
    case 'float':
      return Number.isFinite(Number(text)) ? text : JSON.stringify(text.replace('Infinity', 'INF'));
    case 'boolean':
      return text;
    default:
      return JSON.stringify(text);
  }
}
