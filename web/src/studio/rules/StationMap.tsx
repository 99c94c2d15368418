import dagre from '@dagrejs/dagre'
import { Handle, type Node, type NodeProps, Position, ReactFlow, type Edge } from '@xyflow/react'
import '@xyflow/react/dist/base.css'
import { useMemo } from 'react'
import { Link } from 'react-router'
import type { Shape } from '../../shared/client'

const HIGH = 50
const LETTER = 7.4
const AROUND = 24
const WIDEST = 170
const GAP = { ranksep: 40, nodesep: 10 }

type Drawn = Node<Shape['Node'] & { here: boolean }, 'station'>

/** The way of goods, left to right; each station leads to the sentence that decides it. */
export default function StationMap({ graph, here }: { graph: Shape['Graph']; here: string }) {
  const { nodes, edges, high } = useMemo(() => laidOut(graph, here), [graph, here])
  return (
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
      />
    </div>
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

function laidOut(graph: Shape['Graph'], here: string) {
  const drawn = new dagre.graphlib.Graph().setGraph({ rankdir: 'LR', ...GAP }).setDefaultEdgeLabel(() => ({}))
  for (const n of graph.nodes) {
    const letters = Math.max(n.title.length + (n.code ? n.code.length + 2 : 0), n.says.length * 0.9)
    drawn.setNode(n.id, { width: Math.min(WIDEST, AROUND + LETTER * letters), height: HIGH })
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
    const data = { ...n, here: here !== '' && n.path.endsWith(`/${here}`) }
    return { id: n.id, type: 'station', position: { x: x - width / 2, y: y - HIGH / 2 }, width, height: HIGH, data }
  })
  const edges = graph.edges.map((e): Edge => ({
    id: `${e.source} ${e.target}`,
    source: e.source,
    target: e.target,
    className: e.on ? undefined : 'off',
  }))
  return { nodes, edges, high: Math.min(360, Math.max(110, (drawn.graph().height ?? 0) + 30)) }
}
