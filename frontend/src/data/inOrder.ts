/** Runs what is asked for one after another, in the order asked: a wish that left earlier must never be kept later. */
export function inOrder() {
  let last: Promise<unknown> = Promise.resolve()
  return <T>(work: () => Promise<T>): Promise<T> => {
    const mine = last.then(work)
    last = mine.catch(() => undefined)
    return mine
  }
}
