/** The chapters in the order the work is done, each with the letter or digit that leads to it after `g`. */
export const CHAPTERS = [
  {
    group: 'Ground',
    chapters: [
      ['Site', '/site', 'm'],
      ['Catalogue', '/catalogue', 'k'],
      ['Orders', '/orders', 'o'],
    ],
  },
  {
    group: 'Rules',
    chapters: [
      ['Order classes', '/classes', '6'],
      ['Steps', '/steps', 's'],
      ['Bin rules', '/bin-rules', 'b'],
      ['Recipes', '/recipes', 'i'],
      ['Crews', '/crews', 'w'],
      ['Gates', '/gates', 'u'],
      ['Waves', '/waves', 'z'],
      ['Scanner', '/scanner', 'c'],
      ['Packing', '/packing', 'g'],
      ['Papers', '/papers', 'q'],
      ['Returns', '/returns', '5'],
      ['Stock care', '/care', '3'],
      ['Settings', '/settings', 'e'],
    ],
  },
  {
    group: 'Proof',
    chapters: [
      ['Findings', '/findings', 'f'],
      ['Rehearsals', '/rehearsals', 'r'],
      ['Drafts', '/drafts', 'a'],
    ],
  },
  {
    group: 'Floor',
    chapters: [
      ['Today', '/today', 'n'],
      ['Live floor', '/floor', 'l'],
      ['Work', '/work', 'j'],
      ['Release', '/release', 'y'],
      ['Wave board', '/board', 'h'],
      ['Dock board', '/dock', '1'],
      ['Stock', '/stock', 't'],
      ['Counts', '/counts', '4'],
      ['Documents', '/documents', 'd'],
      ['Printers', '/printers', 'v'],
      ['Host', '/host', 'x'],
      ['Stand-ins', '/stand-ins', '2'],
    ],
  },
  { group: 'House', chapters: [['People', '/people', 'p']] },
] as const

/** The chapters that are drawn from what the core says of them. */
export const RULES = CHAPTERS[1].chapters.map(([, to]) => to.slice(1))
