import { XMLParser } from 'fast-xml-parser';
import type { ForeignKey, FoundColumn, FoundTable } from '#core/dataset/found.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { ProblemError } from '#core/value/problem/problem.ts';

/** OData's primitive types (CSDL 4.01, section 4.4) as those of fields; what is not listed is text, complex types are nested. */
const types: Record<string, FieldType> = {
  'Edm.Boolean': 'boolean',
  'Edm.Byte': 'integer',
  'Edm.SByte': 'integer',
  'Edm.Int16': 'integer',
  'Edm.Int32': 'integer',
  'Edm.Int64': 'integer',
  'Edm.Decimal': 'decimal',
  'Edm.Single': 'float',
  'Edm.Double': 'float',
  'Edm.Date': 'date',
  'Edm.DateTimeOffset': 'instant',
  'Edm.String': 'text',
  'Edm.Guid': 'text',
  'Edm.TimeOfDay': 'text',
  'Edm.Duration': 'text',
};

type Node = Readonly<Record<string, unknown>>;
const listed = (value: unknown): Node[] =>
  (Array.isArray(value) ? value : value === undefined ? [] : [value]).filter(
    (each): each is Node => each !== null && typeof each === 'object',
  );
const text = (node: Node, name: string): string => String(node[`@${name}`] ?? '');

interface EntityType {
  readonly full: string;
  readonly base: string;
  readonly node: Node;
}

/**
 * What a service's `$metadata` says there is: entity sets as tables, with types, keys, and each navigation to one other
 * record that names its columns as a foreign key. Throws a {@link ProblemError} for what is no metadata.
 */
export function readMetadata(xml: string, doing: string): FoundTable[] {
  let root: Node;
  try {
    root = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '@',
      removeNSPrefix: true,
      parseAttributeValue: false,
      processEntities: false,
    }).parse(xml) as Node;
  } catch (thrown) {
    throw noMetadata(doing, thrown instanceof Error ? thrown.message : String(thrown));
  }
  const schemas = listed(((root.Edmx as Node)?.DataServices as Node)?.Schema);
  if (schemas.length === 0) throw noMetadata(doing, 'it has no schema');
  const entities = new Map<string, EntityType>();
  for (const schema of schemas)
    for (const node of listed(schema.EntityType)) {
      const full = `${text(schema, 'Namespace')}.${text(node, 'Name')}`;
      entities.set(full, { full, base: text(node, 'BaseType'), node });
    }
  const sets = schemas.flatMap((schema) =>
    listed(schema.EntityContainer).flatMap((each) => listed(each.EntitySet)),
  );
  const setOf = (type: string): Node | undefined => sets.find((set) => text(set, 'EntityType') === type);
  const holder = schemas.find((schema) => listed(schema.EntityContainer).length > 0) ?? {};
  const namespace = text(holder, 'Namespace') || 'service';
  return sets.flatMap((set): FoundTable[] => {
    const chain = lineage(text(set, 'EntityType'), entities);
    if (chain.length === 0) return [];
    const columns = chain.flatMap(({ node }) => listed(node.Property).map(columnOf));
    const key = chain.flatMap(({ node }) =>
      listed((node.Key as Node)?.PropertyRef).map((ref) => text(ref, 'Name')),
    );
    const foreignKeys = chain.flatMap(({ node }) =>
      listed(node.NavigationProperty).flatMap((each) => foreignKey(each, set, namespace, setOf)),
    );
    return [
      {
        schema: namespace,
        name: text(set, 'Name'),
        kind: 'table',
        about: null,
        comment: null,
        columns: columns.map((column) =>
          key.includes(column.name) ? { ...column, mayBeBlank: false } : column,
        ),
        key,
        foreignKeys,
      },
    ];
  });
}

/** A type and those it is derived from, the oldest first. */
function lineage(type: string, entities: ReadonlyMap<string, EntityType>, depth = 0): EntityType[] {
  const entity = entities.get(type);
  if (!entity || depth > 20) return [];
  return [...(entity.base ? lineage(entity.base, entities, depth + 1) : []), entity];
}

function columnOf(node: Node): FoundColumn {
  const sourceType = text(node, 'Type');
  return {
    name: text(node, 'Name'),
    sourceType: sourceType.replace(/^Edm\./, ''),
    type: types[sourceType] ?? (sourceType.startsWith('Edm.') ? 'text' : 'nested'),
    mayBeBlank: text(node, 'Nullable') !== 'false',
    comment: null,
  };
}

function foreignKey(
  node: Node,
  set: Node,
  namespace: string,
  setOf: (type: string) => Node | undefined,
): ForeignKey[] {
  const type = text(node, 'Type');
  if (type.startsWith('Collection(')) return [];
  const name = text(node, 'Name');
  const bound = listed(set.NavigationPropertyBinding).find((each) => text(each, 'Path') === name);
  const target = bound ? text(bound, 'Target') : setOf(type) ? text(setOf(type) ?? {}, 'Name') : '';
  const constraints = listed(node.ReferentialConstraint);
  if (!target || constraints.length === 0) return [];
  return [
    {
      columns: constraints.map((each) => text(each, 'Property')),
      schema: namespace,
      table: target,
      keys: constraints.map((each) => text(each, 'ReferencedProperty')),
      via: name,
    },
  ];
}

const noMetadata = (doing: string, why: string): ProblemError =>
  new ProblemError({
    code: 'bad-request',
    doing,
    why: `the answer is not OData metadata (${why.slice(0, 160)})`,
    mend: 'Give the address of the service’s root, the one that $metadata stands under.',
  });
