import dagre from '@dagrejs/dagre'
import { Handle, type Node, type NodeProps, Position, ReactFlow, type Edge } from '@xyflow/react'
import '@xyflow/react/dist/base.css'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { client, got, type Shape } from '../../shared/client'
import { Pick } from '../parts/controls'
import { DRAFT, useDraft, useWorlds } from '../parts/data'

const HIGH = 50
const LETTER = 7.4
const AROUND = 24
const WIDEST = 170
const GAP = { ranksep: 40, nodesep: 10 }

type Drawn = Node<Shape['Node'] & { here: boolean; now: string }, 'station'>

/** The way of goods, left to right; each station leads to the sentence that decides it. */
export default function StationMap({ graph, here }: { graph: Shape['Graph']; here: string }) {
  const go = useNavigate()
  const draft = useDraft()
  const worlds = useWorlds()
  const [world, setWorld] = useState('')
  const floors = (worlds.data?.worlds ?? []).filter((w) => w.site === draft.data?.site)
  const now = useQuery({
    queryKey: ['world', world, 'stations', draft.data?.rulebook],
    enabled: world !== '',
    placeholderData: (before) => before,
    queryFn: () => got(client.GET('/api/drafts/{id}/stations', { params: { path: { id: DRAFT }, query: { world } } })),
  })
  const there = world ? now.data?.now : undefined
  const { nodes, edges, high } = useMemo(() => laidOut(graph, here, there ?? {}), [graph, here, there])
  return (
    <>
      {floors.length > 0 && (
        <div className="form" style={{ marginTop: 0 }}>
          <label className="quiet" htmlFor="map-floor">
            What is there now on
          </label>
          <Pick id="map-floor" value={world} onChange={(e) => setWorld(e.target.value)}>
            <option value="">no floor</option>
            {floors.map((w) => (
              <option key={w.id} value={w.id}>
                {w.name}
              </option>
            ))}
          </Pick>
        </div>
      )}
      <div className="stationmap" style={{ height: high }}>
        <ReactFlow
          aria-label="Map of stations"
          nodes={nodes}
          edges={edges}
          nodeTypes={KINDS}
          fitView
          fitViewOptions={{ padding: 0.04, maxZoom: 1 }}
          minZoom={0.3}
          maxZoom={1.5}
          nodesDraggable={false}
          nodesConnectable={false}
          nodesFocusable={false}
          edgesFocusable={false}
          elementsSelectable={false}
          zoomOnScroll={false}
          preventScrolling={false}
          proOptions={{ hideAttribution: true }}
          onEdgeClick={(_, edge) => {
            const link = edge.data?.link
            if (typeof link === 'string' && link) void go(`/${link}`)
          }}
        />
      </div>
    </>
  )
}

const KINDS = { station: Station }

function Station({ data }: NodeProps<Drawn>) {
  const inner = (
    <>
      <span>
        {data.title} {data.code && <span className="code">{data.code}</span>}
      </span>
      {data.says && <small>{data.says}</small>}
      {data.now && <small className="now">{data.now}</small>}
    </>
  )
  return (
    <div className={`station${data.on ? '' : ' off'}${data.here ? ' here' : ''}`}>
      <Handle type="target" position={Position.Left} />
      {data.link ? <Link to={`/${data.link}`}>{inner}</Link> : <div>{inner}</div>}
      <Handle type="source" position={Position.Right} />
    </div>
  )
}

function laidOut(graph: Shape['Graph'], here: string, now: Record<string, string>) {
  const tall = Object.keys(now).length > 0 ? HIGH + 18 : HIGH
  const drawn = new dagre.graphlib.Graph().setGraph({ rankdir: 'LR', ...GAP }).setDefaultEdgeLabel(() => ({}))
  for (const n of graph.nodes) {
    const letters = Math.max(
      n.title.length + (n.code ? n.code.length + 2 : 0),
      n.says.length * 0.9,
      (now[n.id] ?? '').length * 0.9,
    )
    drawn.setNode(n.id, { width: Math.min(WIDEST, AROUND + LETTER * letters), height: tall })
  }
  for (const e of graph.edges) drawn.setEdge(e.source, e.target)
  dagre.layout(drawn)
  const at = graph.nodes.map((n) => drawn.node(n.id))
  // those that stand below one another are of one width
  const widths = new Map<number, number>()
  for (const { x, width } of at) widths.set(x, Math.max(width, widths.get(x) ?? 0))
  const nodes = graph.nodes.map((n, i): Drawn => {
    const { x = 0, y = 0 } = at[i] ?? {}
    const width = widths.get(x) ?? 0
    const data = { ...n, now: now[n.id] ?? '', here: here !== '' && n.path.endsWith(`/${here}`) }
    return { id: n.id, type: 'station', position: { x: x - width / 2, y: y - tall / 2 }, width, height: tall, data }
  })
  const edges = graph.edges.map((e): Edge => ({
    id: `${e.source} ${e.target}`,
    source: e.source,
    target: e.target,
    className: e.on ? undefined : 'off',
    data: { link: e.link },
    interactionWidth: 16,
  }))
  return { nodes, edges, high: Math.min(420, Math.max(110, (drawn.graph().height ?? 0) + 30)) }
}
