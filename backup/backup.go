// Package backup copies a bench's data folder into one file while the bench serves, and
// restores a folder from such a file.
//
// A backup is a zip: the database as SQLite's own online copy (including photos and settings),
// the clips, and a manifest with the digest of each. The package knows the store and nothing of
// HTTP.
package backup

import (
	"archive/zip"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"nowthen/durable"
	"nowthen/store"
)

// Names in a data folder and in a backup.
const (
	Database = "nowthen.db"
	Clips    = "clips"
	manifest = "manifest.json"
)

// Format and Version are in every manifest.
const (
	Format  = "nowthen-backup"
	Version = 1
)

// Manifest says what a backup holds.
type Manifest struct {
	Format  string    `json:"format"`
	Version int       `json:"version"`
	Made    time.Time `json:"made"`
	Schema  string    `json:"schema"` // of the database
	// Damaged are the jobs that could not be read when the backup was made.
	Damaged []store.Damaged `json:"damaged,omitempty"`
	Files   []File          `json:"files"`
}

// whole returns the damage in a backup as an error, or nil.
func (m *Manifest) whole() error {
	lost := m.worse(&Manifest{})
	if len(lost) == 0 {
		return nil
	}
	return &DamagedJobs{lost}
}

// DamagedJobs is the error of a backup that contains unreadable jobs, by their numbers.
type DamagedJobs struct{ Numbers []string }

func (d *DamagedJobs) Error() string {
	return fmt.Sprintf("the backup was made, but job %s is damaged in it", strings.Join(d.Numbers, ", "))
}

// worse returns the damaged jobs that are intact in an earlier backup.
func (m *Manifest) worse(than *Manifest) (list []string) {
	for _, d := range m.Damaged {
		if !slices.ContainsFunc(than.Damaged, func(old store.Damaged) bool { return old.ID == d.ID }) {
			list = append(list, cmp.Or(d.Number, d.ID))
		}
	}
	return list
}

// File is one file of a backup.
type File struct {
	Name   string `json:"name"`
	Bytes  int64  `json:"bytes"`
	SHA256 string `json:"sha256"`
}

// Source is the database that is copied.
type Source interface {
	Copy(ctx context.Context, path string) error
}

// ErrWorse means that a good backup was not replaced by one with new damage.
var ErrWorse = errors.New("the backup that is there holds what can no longer be read")

// Write makes a backup of a data folder whose database is open. clips says whether the clips go
// in. The copy is checked before it takes its place: the database's integrity, which jobs can
// still be read, and the digest of each file. An earlier file of that name is replaced only by
// a whole one without new damage. The backup is its owner's alone.
func Write(ctx context.Context, db Source, data, out string, clips bool) (m *Manifest, err error) {
	if _, err := durable.Sweep(filepath.Dir(out)); err != nil {
		return nil, fmt.Errorf("removing what an interrupted backup left: %w", err)
	}
	work, done, err := durable.Scratch(out)
	if err != nil {
		return nil, fmt.Errorf("making a backup: %w", err)
	}
	defer done()
	copied := filepath.Join(work, Database)
	if err := db.Copy(ctx, copied); err != nil {
		return nil, fmt.Errorf("copying the database: %w", err)
	}
	m = &Manifest{Format: Format, Version: Version, Made: time.Now().Truncate(time.Second), Schema: store.Version()}
	if m.Damaged, err = store.DamagedIn(ctx, copied); err != nil {
		return nil, fmt.Errorf("checking the copy of the database: %w", err)
	}
	if before, err := Read(out); err == nil {
		if lost := m.worse(before); len(lost) > 0 {
			return nil, fmt.Errorf("%w: job %s; %s was kept, so name another file", ErrWorse, strings.Join(lost, ", "),
				out)
		}
	}
	return m, durable.File(out, func(part string) error {
		if err := m.write(ctx, part, copied, data, clips); err != nil {
			return fmt.Errorf("writing the backup: %w", err)
		}
		if err := m.verify(ctx, part); err != nil {
			return fmt.Errorf("checking the backup: %w", err)
		}
		return nil
	})
}

// write puts the copied database and the clips into a file, and the manifest last.
func (m *Manifest) write(ctx context.Context, part, copied, data string, clips bool) error {
	f, err := os.OpenFile(part, os.O_WRONLY|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	z := zip.NewWriter(f)
	err = m.add(ctx, z, Database, copied)
	if err == nil && clips {
		err = m.addClips(ctx, z, filepath.Join(data, Clips))
	}
	if err == nil {
		err = m.finish(z)
	}
	return errors.Join(err, z.Close(), f.Close())
}

// verify reads each file of a backup and compares its digest.
func (m *Manifest) verify(ctx context.Context, path string) error {
	z, err := zip.OpenReader(path)
	if err != nil {
		return err
	}
	defer z.Close()
	for _, f := range m.Files {
		if err := unpack(ctx, &z.Reader, f, io.Discard); err != nil {
			return err
		}
	}
	return nil
}

// Read returns the manifest of a backup.
func Read(path string) (*Manifest, error) {
	z, err := zip.OpenReader(path)
	if err != nil {
		return nil, fmt.Errorf("%s: %w: %w", path, ErrDamaged, err)
	}
	defer z.Close()
	m, err := readManifest(&z.Reader)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return m, nil
}

func (m *Manifest) addClips(ctx context.Context, z *zip.Writer, dir string) error {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	for _, e := range entries {
		name := Clips + "/" + e.Name()
		if !allowed.MatchString(name) {
			continue
		}
		err := m.add(ctx, z, name, filepath.Join(dir, e.Name()))
		if err != nil && !errors.Is(err, fs.ErrNotExist) { // it was deleted meanwhile
			return err
		}
	}
	return nil
}

// add puts a file into the backup and notes it.
func (m *Manifest) add(ctx context.Context, z *zip.Writer, name, from string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	method := zip.Deflate
	if strings.HasPrefix(name, Clips) {
		method = zip.Store // they are small already
	}
	w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: m.Made})
	if err != nil {
		return err
	}
	h := sha256.New()
	n, err := io.Copy(io.MultiWriter(w, h), &cancelled{ctx, in})
	if err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	m.Files = append(m.Files, File{Name: name, Bytes: n, SHA256: hex.EncodeToString(h.Sum(nil))})
	return nil
}

func (m *Manifest) finish(z *zip.Writer) error {
	w, err := z.Create(manifest)
	if err != nil {
		return err
	}
	return json.MarshalWrite(w, m, jsontext.WithIndent("  "))
}

// cancelled reads until the context ends.
type cancelled struct {
	ctx  context.Context
	from io.Reader
}

func (c *cancelled) Read(p []byte) (int, error) {
	if err := c.ctx.Err(); err != nil {
		return 0, err
	}
	return c.from.Read(p)
}

// allowed are the names in a backup. Any other name could lead out of the folder.
var allowed = regexp.MustCompile(`^(nowthen\.db|clips/[0-9A-Za-z]{1,64}\.clip)$`)

// Errors of restoring.
var (
	ErrNotEmpty = errors.New("the folder is not empty")
	ErrDamaged  = errors.New("the backup is damaged")
	ErrNewer    = errors.New("the backup is of a later version than this program")
)

// maxManifest bounds a manifest, bytes.
const maxManifest = 16 << 20

// Restore makes a data folder from a backup. The folder must be empty or missing. It appears only once the
// whole backup is in it and was checked.
func Restore(ctx context.Context, from, data string) (m *Manifest, err error) {
	data = filepath.Clean(data)
	if _, err := durable.Sweep(filepath.Dir(data)); err != nil {
		return nil, fmt.Errorf("removing what an interrupted restore left: %w", err)
	}
	if entries, err := os.ReadDir(data); err == nil && len(entries) > 0 {
		return nil, fmt.Errorf("%s: %w; name a new one", data, ErrNotEmpty)
	} else if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	z, err := zip.OpenReader(from)
	if err != nil {
		return nil, fmt.Errorf("%s: %w: %w", from, ErrDamaged, err)
	}
	defer z.Close()
	if m, err = readManifest(&z.Reader); err != nil {
		return nil, fmt.Errorf("%s: %w", from, err)
	}
	err = durable.Dir(data, func(part string) error {
		for _, f := range m.Files {
			if err := take(ctx, &z.Reader, f, part); err != nil {
				return err
			}
		}
		return store.CheckFile(ctx, filepath.Join(part, Database))
	})
	if err != nil {
		return nil, fmt.Errorf("%s: %w", from, err)
	}
	return m, nil
}

func readManifest(z *zip.Reader) (*Manifest, error) {
	f, err := z.Open(manifest)
	if err != nil {
		return nil, fmt.Errorf("%w: it has no manifest", ErrDamaged)
	}
	defer f.Close()
	text, err := io.ReadAll(io.LimitReader(f, maxManifest))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	m := &Manifest{}
	if err := json.Unmarshal(text, m); err != nil || m.Format != Format {
		return nil, fmt.Errorf("%w: it is no backup of a bench", ErrDamaged)
	}
	if m.Version > Version || !store.Knows(m.Schema) {
		return nil, ErrNewer
	}
	if !slices.ContainsFunc(m.Files, func(f File) bool { return f.Name == Database }) {
		return nil, fmt.Errorf("%w: there is no database in it", ErrDamaged)
	}
	for _, f := range m.Files {
		if !allowed.MatchString(f.Name) || f.Bytes < 0 {
			return nil, fmt.Errorf("%w: %q does not belong into it", ErrDamaged, f.Name)
		}
	}
	return m, nil
}

// take writes one file from a backup into a folder.
func take(ctx context.Context, z *zip.Reader, f File, dir string) error {
	to := filepath.Join(dir, filepath.FromSlash(f.Name))
	if err := os.MkdirAll(filepath.Dir(to), 0o700); err != nil {
		return err
	}
	out, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	err = unpack(ctx, z, f, out)
	return errors.Join(err, out.Sync(), out.Close())
}

// unpack copies one file of a backup and compares its digest.
func unpack(ctx context.Context, z *zip.Reader, f File, to io.Writer) error {
	in, err := z.Open(path.Clean(f.Name))
	if err != nil {
		return fmt.Errorf("%w: %s is missing", ErrDamaged, f.Name)
	}
	defer in.Close()
	h := sha256.New()
	from := &reading{r: io.LimitReader(&cancelled{ctx, in}, f.Bytes+1)}
	n, err := io.Copy(io.MultiWriter(to, h), from)
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case from.err != nil:
		return fmt.Errorf("%w: %s: %w", ErrDamaged, f.Name, from.err)
	case err != nil: // the drive is full
		return fmt.Errorf("%s: %w", f.Name, err)
	case n != f.Bytes || hex.EncodeToString(h.Sum(nil)) != f.SHA256:
		return fmt.Errorf("%w: %s: its content is not what was put in", ErrDamaged, f.Name)
	}
	return nil
}

// reading remembers why reading failed, to tell it from a failure to write.
type reading struct {
	r   io.Reader
	err error
}

func (r *reading) Read(p []byte) (int, error) {
	n, err := r.r.Read(p)
	if err != nil && !errors.Is(err, io.EOF) {
		r.err = err
	}
	return n, err
}
