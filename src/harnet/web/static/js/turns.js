// What the hand does is sent in the order in which it was done: each waits for the answer before, so
// that nothing is lost on a slow way to the server and no answer is overtaken.
let waiting = 0;
let last = Promise.resolve();

export const isTaken = () => waiting > 0;

/** When all that was sent has been answered. */
export const answered = () => last;

/** Does something that gives a promise once everything before it has been answered. */
export function inTurn(act) {
  waiting += 1;
  last = last
    .then(act)
    .catch(() => {})
    .finally(() => {
      waiting -= 1;
    });
  return last;
}
