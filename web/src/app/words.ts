/** words are this program's own terms, and the trade's that not everybody knows, with the pages that use them. */
export const words: { term: string; means: string; on: string }[] = [
  { term: 'Bench', means: 'This program, in the workshop.', on: 'jobs settings reach' },
  { term: 'Then, Now', means: 'The computer before and after the work.', on: 'new intake then prepare swap now trials compare report measure video tests' },
  { term: 'Plan', means: 'The tests of a job. They are the same for every drive.', on: 'new intake then now trials' },
  { term: 'Run', means: 'One measurement of a test.', on: 'intake then now trials compare measure video tests known timer race' },
  { term: 'Phase', means: 'A part of a timed test, such as the firmware’s part of a start. A press ends it.', on: 'timer race video' },
  { term: 'Does not count', means: 'Left out of the result, such as the time you take to type a password.', on: 'timer race' },
  { term: 'Pause for the user', means: 'Leaves out the time in which the computer waits for you.', on: 'timer' },
  { term: 'Reaction', means: 'Its spread is the error of hand timing. Measure your own for a smaller one.', on: 'timer' },
  { term: 'Session', means: 'A stretch of measuring under the same conditions. When they change, start a new one.', on: 'then now trials measure compare' },
  { term: 'Set aside', means: 'Taken out of the comparison with a reason, and kept. You can restore it.', on: 'then now trials compare' },
  { term: 'Checkpoint', means: 'A step you can’t reverse, such as removing the old drive. It lists what is missing.', on: 'jobs then prepare swap now trials report' },
  { term: 'Unattended', means: 'Runs without you once it is started.', on: 'jobs then now trials measure' },
  { term: 'Probe', means: 'The program that measures on the customer’s computer.', on: 'then prepare swap now trials measure' },
  { term: 'Shop stick', means: 'A USB stick with the probe. It announces a customer’s computer to this bench.', on: 'jobs settings then prepare now' },
  { term: 'Finish line', means: 'A page that stops the timer when the customer’s browser opens it.', on: 'then now trials timer' },
  { term: 'Settled', means: 'A drive with a cache learns at first. It has settled once its times stay the same.', on: 'now trials compare' },
  { term: 'Caveat', means: 'A difference besides the drive that makes a line less certain.', on: 'compare report' },
  { term: '95 % range', means: 'The true value lies in such a range 95 times out of 100.', on: 'compare report tests' },
  { term: 'Too close to call', means: 'The runs vary more than the two sides differ.', on: 'compare' },
  { term: 'Race', means: 'Replays a timed test of both sides at the same time.', on: 'compare race' },
  { term: '80 % range', means: 'Four of five forecasts lie in such a range.', on: 'known intake' },
  { term: 'True capacity', means: 'Whether the drive stores as much as it claims.', on: 'prepare now' },
  { term: 'Sustained writing', means: 'Writing without a pause, to see when it slows down.', on: 'prepare now then tests' },
  { term: 'Reallocated, pending sectors', means: 'Parts of a disk that failed and were replaced, or are about to be.', on: 'then now compare' },
  { term: 'Follow-up', means: 'Something promised for later, with its day.', on: 'jobs report' },
  { term: 'Check-up', means: 'Measuring again after hand-back.', on: 'new intake then now' },
  { term: 'Check at home', means: 'The customer times the computer again, from the report’s link.', on: 'report' },
  { term: 'Usual spread', means: 'How much runs of such a test vary in finished jobs. It counts where a job has few runs.', on: 'settings compare' },
  { term: 'Fingerprint', means: 'A short code made from a longer one. Compare it to be sure you have the right one.', on: 'reach prepare' },
]

/** pageOf is the page at a path, as words name it. */
const pageOf = (path: string) => /^\/jobs\/[^/]+\/([^/]+)/.exec(path)?.[1] ?? (path === '/' ? 'jobs' : (path.split('/')[1] ?? ''))

/** wordsOn are the terms of the page at a path. */
export const wordsOn = (path: string) => words.filter((w) => w.on.split(' ').includes(pageOf(path)))
