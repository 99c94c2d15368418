import { QueryClient } from '@tanstack/react-query'

/** What the studio asks the server. Invalidated while its first answer is under way, a question is asked anew: what is
 * under way may have been read before the change, and the package would take it for what came after. */
export class Asking extends QueryClient {
  override invalidateQueries(...[which, options]: Parameters<QueryClient['invalidateQueries']>) {
    void this.cancelQueries({ ...which, predicate: (query) => query.state.data === undefined })
    return super.invalidateQueries(which, options)
  }
}
