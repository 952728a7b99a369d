package machine

import "time"

// closeReadings is how far apart two readings of one clock may be for what is read
// between them to belong to both.
const closeReadings = time.Millisecond

// slept is how long this computer has slept since it was started: what the system's
// clock that counts sleep is ahead of the one that does not. It is 0 where the
// system does not tell.
func slept() time.Duration {
	var ahead time.Duration
	for range 4 { // a thread that had to wait between the clocks reads them anew
		counting, not, ok := bootClocks()
		if !ok {
			return 0
		}
		ahead = max(0, counting-not)
		if again, _, _ := bootClocks(); again-counting < closeReadings {
			break
		}
	}
	return ahead
}
