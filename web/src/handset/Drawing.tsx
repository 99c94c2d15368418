/** What to scan, drawn as a small shape. */
export function Drawing({ shape }: { shape: string }) {
  return (
    <svg viewBox="0 0 52 44" fill="none" stroke="currentColor" strokeWidth="2" aria-hidden="true">
      {DRAWN[shape] ?? DRAWN.ticket}
    </svg>
  )
}

const DRAWN: Record<string, React.ReactNode> = {
  ticket: <path d="M10 4h32v36l-4-3-4 3-4-3-4 3-4-3-4 3-4-3-4 3zM17 13h18M17 20h18M17 27h10" />,
  carton: <path d="M6 14l20-9 20 9v18l-20 9-20-9zM6 14l20 9 20-9M26 23v18" />,
  pallet: <path d="M8 6h36v24H8zM4 34h44M8 34v5M26 34v5M44 34v5" />,
  bin: <path d="M5 4v38M47 4v38M5 14h42M5 30h42M14 18h24v12H14z" />,
  number: <path d="M10 6h32v32H10zM10 17h32M10 28h32M21 6v32M32 6v32" />,
  calendar: <path d="M6 9h40v30H6zM6 18h40M16 4v9M36 4v9M14 26h6M24 26h6M34 26h5" />,
  doubt: <path d="M26 5l21 35H5zM26 18v10M26 33v2" />,
}
