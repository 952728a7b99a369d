package sim

import "container/list"

// cacheSpec is flash in front of a disk that caches repeatedly read data.
type cacheSpec struct {
	bytes  int64 // what it holds
	extent int64 // the piece in which it learns
	after  int   // how often a piece is read before it is kept
	long   int64 // requests from that size on pass by
}

// Lanes of a drive with a cache.
const (
	onDisk = iota
	onFlash
)

// cache knows which pieces are on flash, the least recently used last.
type cache struct {
	cacheSpec
	kept  map[int64]*list.Element
	order *list.List // of piece numbers
	seen  map[int64]int
}

func newCache(s cacheSpec) *cache {
	return &cache{cacheSpec: s, kept: map[int64]*list.Element{}, order: list.New(), seen: map[int64]int{}}
}

// route sends a read of pieces that are all kept to flash, everything else to
// the disk. Long requests and writes are not learnt.
func (c *cache) route(o *op) int {
	if o.req.Write || o.n >= c.long {
		return onDisk
	}
	lane := onFlash
	for piece := o.at / c.extent; piece*c.extent < o.at+o.n; piece++ {
		if e, ok := c.kept[piece]; ok {
			c.order.MoveToFront(e)
			continue
		}
		lane = onDisk
		if c.seen[piece]++; c.seen[piece] < c.after {
			continue
		}
		delete(c.seen, piece)
		c.kept[piece] = c.order.PushFront(piece)
		if int64(c.order.Len())*c.extent > c.bytes {
			oldest := c.order.Back()
			delete(c.kept, oldest.Value.(int64))
			c.order.Remove(oldest)
		}
	}
	return lane
}
