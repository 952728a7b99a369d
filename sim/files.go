package sim

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/job"
)

// The overhead of a file: a small read to find its place, and a small write to record it.
const note = 4 << 10

// tree is a folder on a simulated drive.
type tree struct {
	d     *Drive
	space *file
	q     drivetest.Queue
	next  int64
	files map[string]place
	req   drivetest.Request
}

// place is where a simulated file lies.
type place struct{ at, bytes int64 }

// treeSpace is the stretch of the drive on which a folder lies.
const treeSpace = 8 << 30

func (d *Drive) tree(ctx context.Context) (*tree, error) {
	size := min(treeSpace, d.spec.Label.CapacityBytes/4)
	f, err := d.Create(ctx, size)
	if err != nil {
		return nil, err
	}
	return &tree{d: d, space: f.(*file), q: f.Queue(1), files: map[string]place{}}, nil
}

// MakeTree makes an empty folder.
func (d *Drive) MakeTree(ctx context.Context) (filetest.Tree, error) { return d.tree(ctx) }

// simulatedFolder is the content of every folder of a simulated computer.
var simulatedFolder = filetest.Set{Files: 1800, MedianBytes: 36 << 10, Sigma: 1.7, MaxBytes: 16 << 20, Seed: 77}

// OpenTree opens the folder that every simulated computer has, whatever its name.
func (d *Drive) OpenTree(ctx context.Context, _ string) (filetest.Tree, error) {
	t, err := d.tree(ctx)
	if err != nil {
		return nil, err
	}
	places := newPlaces("folder")
	for _, e := range simulatedFolder.Entries() {
		t.files[e.Name] = place{places.Int64N(t.space.size-e.Bytes) &^ 4095, e.Bytes}
	}
	return t, nil
}

func (t *tree) Entries() ([]filetest.Entry, error) {
	var list []filetest.Entry
	for name, p := range t.files {
		list = append(list, filetest.Entry{Name: name, Bytes: p.bytes})
	}
	slices.SortFunc(list, func(a, b filetest.Entry) int { return strings.Compare(a.Name, b.Name) })
	return list, nil
}

// move reads or writes a stretch in pieces of up to 1 MiB.
func (t *tree) move(write bool, at, n int64) error {
	for n > 0 {
		k := min(n, int64(len(scratch)))
		t.req = drivetest.Request{Write: write, Offset: at, Data: scratch[:k]}
		t.q.Start(&t.req)
		if r := t.q.Wait(); r.Err != nil {
			return r.Err
		}
		at, n = at+k, n-k
	}
	return nil
}

// noteAt is where the note of a file lies.
func (t *tree) noteAt(name string) int64 {
	return newPlaces(name).Int64N(t.space.size-note) &^ (note - 1)
}

func (t *tree) Write(name string, bytes int64, _ func([]byte)) error {
	p := place{t.next, bytes}
	if t.next += (bytes + 4095) &^ 4095; t.next > t.space.size {
		return fmt.Errorf("the simulated folder is full")
	}
	t.files[name] = p
	if err := t.move(true, t.noteAt(name), note); err != nil {
		return err
	}
	return t.move(true, p.at, bytes)
}

func (t *tree) Copy(from, to string) error {
	n, err := t.Read(from)
	if err != nil {
		return err
	}
	return t.Write(to, n, nil)
}

func (t *tree) Read(name string) (int64, error) {
	p, ok := t.files[name]
	if !ok {
		return 0, fmt.Errorf("there is no simulated file %s", name)
	}
	if err := t.move(false, t.noteAt(name), note); err != nil {
		return 0, err
	}
	return p.bytes, t.move(false, p.at, p.bytes)
}

func (t *tree) Forget(string) error { return nil } // nothing is kept in memory
func (t *tree) Sync() error         { return t.space.Flush() }

func (t *tree) Close() error {
	t.q.Close()
	return t.space.Close()
}

// WorkProcessor lets the simulated processor do the control's work, which takes
// the same time whatever drive is in the computer.
func (d *Drive) WorkProcessor(ctx context.Context, done func(float64)) (*job.ProcessorWork, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	one := 7.4 * (1 + 0.006*d.rng.NormFloat64())
	all := 2.1 * (1 + 0.006*d.rng.NormFloat64())
	d.Work(seconds(one + all))
	done(1)
	return &job.ProcessorWork{OneS: one, AllS: all}, nil
}
