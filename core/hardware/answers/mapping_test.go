package answers

import (
	"nowthen/core/hardware"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMappedCache(t *testing.T) {
	for name, c := range map[string]struct {
		table string
		want  map[string]string
	}{
		"a cache with its metadata on the same drive": {"0 1249000000 cache 254:1 254:2 8:2 512 1 writethrough smq 0\n",
			map[string]string{"254:1": hardware.AsCache, "254:2": hardware.AsCache, "8:2": hardware.AsData}},
		"a cache for writing": {"0 1249000000 writecache s 8:2 259:1 4096 0\n",
			map[string]string{"8:2": hardware.AsData, "259:1": hardware.AsCache}},
		"of two parts, one is a cache": {"0 100 linear 8:1 0\n100 200 cache 254:1 254:2 8:2 512 0 default 0\n",
			map[string]string{"254:1": hardware.AsCache, "254:2": hardware.AsCache, "8:2": hardware.AsData}},
		"encrypted":        {"0 1249000000 crypt aes-xts-plain64 :64:logon:x 0 8:2 32768\n", map[string]string{}},
		"cut off":          {"0 1249000000 cache 254:1 254:2", map[string]string{}},
		"nothing was said": {"", map[string]string{}},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, MappedCache(c.table)) })
	}
}
