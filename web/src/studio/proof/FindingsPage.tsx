import { Link } from 'react-router'
import type { Shape } from '../../shared/client'
import { Told } from '../../shared/Told'
import { useDraft, useFound } from '../parts/data'
import { Skeleton } from '../parts/Skeleton'

type Found = Shape['FoundView']

/** Everything that was found in the draft, what stops it first, each with its place a click away. */
export default function FindingsPage() {
  const draft = useDraft()
  const found = useFound()
  const listed = found.data?.findings
  const stops = listed?.filter((f) => f.severity === 'blocks') ?? []
  const doubts = listed?.filter((f) => f.severity === 'doubt') ?? []
  return (
    <div className="page wide">
      <main className="main">
        <h1>Findings</h1>
        <p className="lead">
          What is wrong or doubtful in {draft.data?.name ?? 'the draft'}, found without running it. What stops must be
          mended before it can be run or put in force; a doubt may be meant so.
        </p>
        {found.error && <p className="empty">{found.error.message}</p>}
        {!listed ? (
          !found.error && <Skeleton />
        ) : listed.length === 0 ? (
          <p className="empty">Nothing was found. Run the rehearsals next: they prove what it does.</p>
        ) : (
          <>
            <Group title="What stops it" found={stops} none="Nothing stops it: it can be run and put in force." />
            <Group title="What is doubtful" found={doubts} none="Nothing is doubtful." />
          </>
        )}
      </main>
    </div>
  )
}

function Group({ title, found, none }: { title: string; found: Found[]; none: string }) {
  return (
    <section>
      <h2>
        {title} <small className="quiet">{found.length > 0 && found.length}</small>
      </h2>
      {found.length === 0 && <p className="quiet">{none}</p>}
      <ul className="found">
        {found.map((f) => (
          <li key={f.code + f.place + f.says}>
            <span className={`finding ${f.severity}`}>
              <b>{f.severity === 'blocks' ? '■ stops' : '▲ doubt'}</b>
            </span>
            <span>
              <Told text={f.says} />
              {f.witness && (
                <span className="quiet">
                  {' '}
                  For example <span className="code">{f.witness}</span>.
                </span>
              )}
            </span>
            <Link className="link" to={f.link}>
              {f.at}
            </Link>
          </li>
        ))}
      </ul>
    </section>
  )
}
