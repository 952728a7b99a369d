package machine

import (
	"testing"
	"time"

	"nowthen/core/drivetest"
)

func reference(b *testing.B, _ *testFile, _ drivetest.Workload, _ time.Duration) float64 {
	b.Fatal("there is no bare loop for this system")
	return 0
}
