import Tooltip from '@mui/material/Tooltip'
import { useContext, useMemo, useState } from 'react'
import { Handset } from '../../handset/Handset'
import { useHandset, type Network } from '../../handset/useHandset'
import type { Shape } from '../../shared/client'
import { Names } from '../../shared/Told'
import { Pick } from './controls'

type Code = Shape['TrayCode']

/** A handset on the desk or the bench, with its scan tray: right codes and instructive wrong ones. */
export function HandPanel(props: {
  world: string
  device: string
  person: string
  seq?: number
  keepFocus?: boolean
  onEntry?: (e: Shape['EntryView']) => void
  /** May the network be lost on purpose? Not on a live floor. */
  loses?: boolean
}) {
  const [network, setNetwork] = useState<Network>('there')
  const hand = useHandset({ ...props, tray: true, network })
  const names = useContext(Names)
  const question = hand.view?.question
  const codes = useMemo(() => hand.view?.tray ?? [], [hand.view])
  const scan = (code: Code) => {
    if (question)
      hand.act({
        kind: 'answer',
        dialogue: question.dialogue,
        scan: { text: code.text, how: code.how },
        step: question.step,
      })
  }
  return (
    <>
      <div className="phone">
        <Handset
          hand={hand}
          keepFocus={props.keepFocus ?? true}
          who={`${names[props.person] ?? props.person}, ${props.device}`}
        />
      </div>
      {props.loses && (
        <div className="form" style={{ marginBottom: 0 }}>
          <label className="quiet">
            Network{' '}
            <Pick
              aria-label="Network of the handset"
              value={network}
              onChange={(e) => setNetwork(e.target.value as Network)}
            >
              <option value="there">is there</option>
              <option value="before">gone: what is scanned does not arrive</option>
              <option value="after">gone after it: the answer does not arrive</option>
            </Pick>
          </label>
        </div>
      )}
      {codes.length > 0 && (
        <>
          <h2>
            Scan tray <small className="quiet">right · instructive wrong</small>
          </h2>
          <div className="tray">
            {codes.map((code) => (
              <Tooltip key={code.text} describeChild title={code.says.replace(/`/g, '')}>
                <button className={code.taken ? '' : 'wrong'} onClick={() => scan(code)}>
                  <b>{code.text}</b>
                  {code.taken ? '' : '✕ '}
                  {code.label}
                  {code.symbol !== 'typed' && (
                    <img
                      className={code.symbol === 'gs1datamatrix' ? 'square' : ''}
                      alt={`barcode of ${code.text}`}
                      src={`/api/barcode.svg?${new URLSearchParams({ text: code.text, symbol: code.symbol })}`}
                    />
                  )}
                </button>
              </Tooltip>
            ))}
          </div>
        </>
      )}
    </>
  )
}
