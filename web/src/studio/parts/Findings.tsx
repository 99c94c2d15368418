import { Told } from '../../shared/Told'
import { useFound } from './data'

/** Findings whose place lies under a path, each with its mark and word. */
export function Findings({ under }: { under: string }) {
  const found = useFound().data?.findings ?? []
  return found
    .filter((f) => f.place === under || f.place.startsWith(`${under}/`))
    .map((f) => (
      <span key={f.code + f.place} className={`finding ${f.severity}`} tabIndex={-1}>
        <b>{f.severity === 'blocks' ? '■ stops' : '▲ doubt'}</b>{' '}
        <Told text={f.says + (f.witness ? ` For example \`${f.witness}\`.` : '')} />
      </span>
    ))
}
