import dagre from '@dagrejs/dagre';
import { type Edge, Handle, type Node, type NodeProps, Position, ReactFlow } from '@xyflow/react';
import { counted } from '#core/value/format/counted.ts';
import '@xyflow/react/dist/base.css';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import { refsOf } from '#core/dataset/outcome.ts';
import { comesFrom, leadsTo } from '#core/lineage/reach.ts';
import type { NamedDashboard, NamedDataSet } from '#core/lineage/uses.ts';

interface Props {
  readonly id: string;
  readonly dataSets: readonly NamedDataSet[];
  readonly dashboards: readonly NamedDashboard[];
  readonly sources: readonly { readonly id: string; readonly name: string }[];
}

type Place = Node<{ title: string; kind: string; to: string; isOwn: boolean }, 'place'>;

const size = { width: 208, height: 54 };
/** Said beforehand, so that nothing has to be measured before it shows: what is drawn again is not measured again. */
const handles = [
  { type: 'target' as const, position: Position.Left, x: 0, y: size.height / 2, width: 1, height: 1 },
  {
    type: 'source' as const,
    position: Position.Right,
    x: size.width,
    y: size.height / 2,
    width: 1,
    height: 1,
  },
];

/** Sources to the left, what readers see to the right; the data set itself stands out. */
export function LineageGraph({ id, dataSets, dashboards, sources }: Props) {
  const { nodes, edges, height } = useMemo(
    () => drawn({ id, dataSets, dashboards, sources }),
    [id, dataSets, dashboards, sources],
  );
  return (
    <section
      aria-label="Where its records come from and go to"
      style={{ height }}
      className="border-b border-hair"
    >
      <ReactFlow<Place, Edge>
        nodes={nodes}
        edges={edges}
        nodeTypes={nodeTypes}
        fitView
        fitViewOptions={{ padding: 0.06, maxZoom: 1 }}
        minZoom={0.3}
        nodesDraggable={false}
        nodesConnectable={false}
        nodesFocusable={false}
        edgesFocusable={false}
        zoomOnScroll={false}
        preventScrolling={false}
        proOptions={{ hideAttribution: true }}
      />
    </section>
  );
}

function PlaceView({ data }: NodeProps<Place>) {
  return (
    <Link
      to={data.to}
      className={`flex flex-col justify-center border-l-3 bg-sheet px-3 hover:text-accent ${data.isOwn ? 'border-l-accent font-strong' : 'border-l-line'}`}
      style={size}
    >
      <Handle
        type="target"
        position={Position.Left}
        className="!size-px !min-h-0 !min-w-0 !border-0 !bg-transparent"
      />
      <span className="truncate text-small" title={data.title}>
        {data.title}
      </span>
      <span className="truncate text-small font-normal text-muted">{data.kind}</span>
      <Handle
        type="source"
        position={Position.Right}
        className="!size-px !min-h-0 !min-w-0 !border-0 !bg-transparent"
      />
    </Link>
  );
}

const nodeTypes = { place: PlaceView };

/** All that the data set comes from, however far back, and all that comes of it. */
function drawn({ id, dataSets, dashboards, sources }: Props): {
  nodes: Place[];
  edges: Edge[];
  height: number;
} {
  const byId = new Map(dataSets.map((each) => [each.id, each]));
  const definitions = new Map(dataSets.map((each) => [each.id, each.definition]));
  const forward = leadsTo(id, definitions);
  const shown = new Set([...comesFrom(id, definitions), ...forward]);
  const places: Omit<Place['data'], 'isOwn'>[] = [];
  const links: [string, string][] = [];
  const names: string[] = [];
  const add = (name: string, place: Omit<Place['data'], 'isOwn'>): void => {
    if (names.includes(name)) return;
    names.push(name);
    places.push(place);
  };
  for (const each of shown) {
    const found = byId.get(each);
    if (!found) continue;
    add(each, { title: found.name, kind: 'data set', to: `/workroom/data-sets/${each}/lineage` });
    const refs = refsOf(found.definition);
    for (const { dataSet } of refs) if (shown.has(dataSet)) links.push([dataSet, each]);
    const source = sources.find((one) => one.id === found.definition.source);
    if (found.definition.request.kind !== 'of' && source) {
      add(source.id, { title: source.name, kind: 'source', to: `/workroom/sources/${source.id}` });
      links.push([source.id, each]);
    }
  }
  for (const { id: dashboard, dashboard: definition } of dashboards) {
    const used = definition.panes.filter((pane) => usesOf(pane).some(({ dataSet }) => forward.has(dataSet)));
    if (used.length === 0) continue;
    const panes = counted(used.length, 'pane');
    add(dashboard, {
      title: definition.title,
      kind: `dashboard, ${panes}`,
      to: `/workroom/dashboards/${dashboard}`,
    });
    for (const of of new Set(used.flatMap(usesOf).map(({ dataSet }) => dataSet)))
      if (forward.has(of)) links.push([of, dashboard]);
  }
  const graph = new dagre.graphlib.Graph().setGraph({ rankdir: 'LR', nodesep: 14, ranksep: 56 });
  graph.setDefaultEdgeLabel(() => ({}));
  for (const name of names) graph.setNode(name, { ...size });
  const unique = [...new Set(links.map(([a, b]) => `${a} ${b}`))].map(
    (link) => link.split(' ') as [string, string],
  );
  for (const [from, to] of unique) graph.setEdge(from, to);
  dagre.layout(graph);
  const nodes = names.map((name, at): Place => {
    const { x, y } = graph.node(name) as { x: number; y: number };
    const place = places[at] ?? { title: name, kind: '', to: '' };
    return {
      id: name,
      type: 'place',
      position: { x: x - size.width / 2, y: y - size.height / 2 },
      ...size,
      handles,
      data: { ...place, isOwn: name === id },
    };
  });
  const edges = unique.map(([source, target]) => ({
    id: `${source} ${target}`,
    source,
    target,
    style: { stroke: 'var(--line)', strokeWidth: 1.25 },
  }));
  const tall = Math.max(...nodes.map(({ position }) => position.y + size.height));
  return { nodes, edges, height: Math.min(520, Math.max(140, tall + 30)) };
}
