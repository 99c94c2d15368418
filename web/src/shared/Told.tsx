import { createContext, Fragment, useContext } from 'react'

/** Names of people by id: the log holds ids only. */
export const Names = createContext<Record<string, string>>({})

/** A sentence of the core: codes in backticks are set in mono, @ids become names. */
export function Told({ text }: { text: string }) {
  const names = useContext(Names)
  return text
    .split(/(`[^`]*`)/)
    .map((piece, n) =>
      piece.startsWith('`') ? (
        <Code key={n}>{piece.slice(1, -1)}</Code>
      ) : (
        <Fragment key={n}>{piece.replace(/@([a-z0-9-]+)/g, (_, id: string) => names[id] ?? id)}</Fragment>
      ),
    )
}

/** A code in mono on a faint tint; never broken across lines. That of a photo leads to it. */
export function Code({ children }: { children: string }) {
  if (/^photo-[0-9a-f]{16}$/.test(children))
    return (
      <a className="link" href={`/api/pictures/${children}`} target="_blank" rel="noreferrer">
        {children.slice(0, 10)}
      </a>
    )
  return <code className="code">{children}</code>
}
