package machine

import (
	"encoding/binary"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParseRetrieval(t *testing.T) {
	answer := func(extents ...[2]int64) []byte {
		b := binary.LittleEndian.AppendUint64(nil, uint64(len(extents)))
		b = binary.LittleEndian.AppendUint64(b, 0)
		for _, e := range extents {
			b = binary.LittleEndian.AppendUint64(b, uint64(e[0]))
			b = binary.LittleEndian.AppendUint64(b, uint64(e[1]))
		}
		return b
	}
	list, err := parseRetrieval(answer([2]int64{8, 100}, [2]int64{16, -1}, [2]int64{24, 40}))
	require.NoError(t, err)
	assert.Equal(t, []clusters{{100, 108}, {40, 48}}, list, "the hole has no place")
	_, err = parseRetrieval(answer([2]int64{8, 100})[:20])
	assert.Error(t, err)
	_, err = parseRetrieval(nil)
	assert.Error(t, err)
}
