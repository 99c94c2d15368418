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

/** A code in mono on a faint tint; never broken across lines. */
export function Code({ children }: { children: string }) {
  return <code className="code">{children}</code>
}
