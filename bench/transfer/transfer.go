// Package transfer imports and exports jobs as files: job files, and zips of a job file with
// its pictures and clips.
//
// Everything that can be exported can be imported: both have the same limits. It must not import HTTP
// or screens.
package transfer

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/bench/evidence"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/store"
)

// Names in a zip.
const (
	jobName   = "job.nowthen.json"
	mediaName = "media.json" // what is known of each file of the folder
	mediaDir  = "media/"
)

// Ways to import a job that already exists.
const (
	AsNew    = ""       // it is refused
	AsUpdate = "update" // what is missing is added
	AsCopy   = "copy"   // it becomes a job with a number of its own
)

// Store is the part of the store that transfers use.
type Store interface {
	ByNumber(ctx context.Context, number string) ([]string, error)
	Traces(ctx context.Context, jobID string, runs ...string) (map[string]job.Trace, error)
}

// Transfers imports and exports jobs.
type Transfers struct {
	jobs     *bench.Jobs
	store    Store
	evidence *evidence.Evidence
}

// New returns the transfers of a bench.
func New(jobs *bench.Jobs, s Store, e *evidence.Evidence) *Transfers { return &Transfers{jobs, s, e} }

// Export returns a job as a job file, including its runs' traces.
func (x *Transfers) Export(ctx context.Context, id string) (number string, data []byte, err error) {
	s, err := x.jobs.Load(ctx, id)
	if err != nil {
		return "", nil, err
	}
	traces, err := x.store.Traces(ctx, id)
	if err != nil {
		return "", nil, err
	}
	j := s.Job.Clone()
	j.Runs = slices.Clone(j.Runs)
	for i := range j.Runs {
		j.Runs[i].Join(traces[j.Runs[i].ID])
	}
	data, err = jobfile.Write(j)
	return j.Head.Number, data, err
}

// Zip is a job with its pictures and clips, ready to be written.
type Zip struct {
	Number string
	jobID  string
	file   []byte
	media  []evidence.Media
	of     *Transfers
}

// ExportZip returns a job as a zip.
func (x *Transfers) ExportZip(ctx context.Context, id string) (*Zip, error) {
	number, data, err := x.Export(ctx, id)
	if err != nil {
		return nil, err
	}
	media, err := x.evidence.MediaOf(ctx, id)
	return &Zip{Number: number, jobID: id, file: data, media: media, of: x}, err
}

// Write writes the zip. After an error the output is incomplete.
func (z *Zip) Write(ctx context.Context, w io.Writer) error {
	out := zip.NewWriter(w)
	put := func(name string, method uint16, from io.Reader) error {
		to, err := out.CreateHeader(&zip.FileHeader{Name: name, Method: method})
		if err == nil {
			_, err = io.Copy(to, from)
		}
		return err
	}
	list, err := json.Marshal(z.media)
	if err != nil {
		return err
	}
	if err := put(jobName, zip.Deflate, strings.NewReader(string(z.file))); err != nil {
		return err
	}
	if err := put(mediaName, zip.Deflate, strings.NewReader(string(list))); err != nil {
		return err
	}
	for _, m := range z.media {
		from, err := z.of.evidence.Open(ctx, z.jobID, m)
		if err != nil {
			return fmt.Errorf("%s: %w", m.ID, err)
		}
		err = put(mediaDir+m.ID, zip.Store, from) // they are small already
		if err := errors.Join(err, from.Close()); err != nil {
			return fmt.Errorf("%s: %w", m.ID, err)
		}
	}
	return out.Close()
}

// Numbered returns the id of the newest job with a number.
func (x *Transfers) Numbered(ctx context.Context, number string) (string, error) {
	ids, err := x.store.ByNumber(ctx, number)
	if err == nil && len(ids) == 0 {
		err = bench.Refuse(bench.Missing, "there is no job with the number %s", number)
	}
	if err != nil {
		return "", err
	}
	return ids[0], nil
}

// ImportFile imports a job file or a zip of one from disk; name is its name for people.
func (x *Transfers) ImportFile(ctx context.Context, ch *bench.Change, name, file, as string) (*bench.View, error) {
	z, err := zip.OpenReader(file)
	if err == nil {
		defer z.Close()
		return x.importZip(ctx, ch, name, &z.Reader, as)
	}
	if !errors.Is(err, zip.ErrFormat) {
		return nil, err
	}
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	data, err := readJob(f)
	if err != nil {
		return nil, err
	}
	return x.Import(ctx, ch, name, data, as)
}

// readJob reads a job file, up to one byte over the limit; the refusal states its size.
func readJob(from io.Reader) ([]byte, error) {
	return io.ReadAll(io.LimitReader(from, jobfile.MaxBytes+1))
}

// Import imports a job file.
func (x *Transfers) Import(ctx context.Context, ch *bench.Change, name string, data []byte,
	as string) (*bench.View, error) {
	return x.take(ctx, ch, name, data, as, nil)
}

// importZip imports a job with its pictures and clips.
func (x *Transfers) importZip(ctx context.Context, ch *bench.Change, name string, z *zip.Reader,
	as string) (*bench.View, error) {
	f, err := z.Open(jobName)
	if err != nil {
		r := &bench.Refusal{Kind: bench.Invalid,
			Message: fmt.Sprintf("%s holds no job: there is no %s in it.", name,
				jobName), Kept: "Nothing was imported."}
		return nil, r
	}
	data, err := readJob(f)
	if err := errors.Join(err, f.Close()); err != nil {
		return nil, damagedZip(name, err)
	}
	media, err := listed(z)
	if err != nil {
		return nil, damagedZip(name, err)
	}
	return x.take(ctx, ch, name, data, as, media)
}

func damagedZip(name string, err error) error {
	return &bench.Refusal{Kind: bench.Invalid, Message: fmt.Sprintf("%s is damaged: %v.", name, err),
		Kept: "Nothing was imported.", Do: "Export the job again, or copy the file again."}
}

// incoming is a picture or clip in a zip.
type incoming struct {
	evidence.Media
	file    *zip.File
	from    string           // its id in the file
	picture evidence.Picture // once it was read, of one that is no clip
}

// listed returns the pictures and clips in a zip. An unlisted one is identified by its first bytes when it is
// read, and counts as a picture here.
func listed(z *zip.Reader) ([]*incoming, error) {
	known := map[string]evidence.Media{}
	if f, err := z.Open(mediaName); err == nil {
		var list []evidence.Media
		err := json.UnmarshalRead(io.LimitReader(f, 16<<20), &list)
		if err := errors.Join(err, f.Close()); err != nil {
			return nil, err
		}
		for _, m := range list {
			known[m.ID] = m
		}
	}
	var all []*incoming
	for _, f := range z.File {
		id, ok := strings.CutPrefix(f.Name, mediaDir)
		if !ok || id == "" || path.Base(id) != id {
			continue
		}
		m, ok := known[id]
		if !ok {
			m = evidence.Media{Type: "image/jpeg"}
		}
		m.ID, m.Bytes = id, int64(f.UncompressedSize64)
		all = append(all, &incoming{Media: m, file: f, from: id})
	}
	return all, nil
}

// take imports a job with its pictures and clips.
func (x *Transfers) take(ctx context.Context, ch *bench.Change, name string, data []byte, as string,
	media []*incoming) (*bench.View, error) {
	if !slices.Contains([]string{AsNew, AsUpdate, AsCopy}, as) {
		return nil, bench.Refuse(bench.Invalid, "%q is not one of %s.", as, "update, copy")
	}
	j, err := jobfile.Read(name, data)
	var refused *jobfile.Refusal
	if errors.As(err, &refused) {
		return nil, bench.FileRefusal(refused)
	}
	if err != nil {
		return nil, err
	}
	there, err := x.already(ctx, j)
	if err != nil {
		return nil, err
	}
	if there != nil && as == AsNew {
		return nil, isThere(there)
	}
	if there != nil && as == AsUpdate {
		have, err := x.evidence.MediaOf(ctx, there.ID)
		if err != nil {
			return nil, err
		}
		media = slices.DeleteFunc(media, func(m *incoming) bool {
			return slices.ContainsFunc(have, func(h evidence.Media) bool { return h.ID == m.ID })
		})
		return x.with(ctx, there.ID, j, media,
			func(adopt adopt) (*bench.View, error) {
				return x.update(ctx, ch, there.ID, j, adopt)
			})
	}
	return x.with(ctx, "", j, media, func(adopt adopt) (*bench.View, error) {
		return x.add(ctx, ch, j, as, adopt)
	})
}

// already returns the existing job that a file is of, or nil. A damaged one doesn't count.
func (x *Transfers) already(ctx context.Context, j *job.Job) (*bench.Snapshot, error) {
	if j.Head.Number == "" {
		return nil, nil
	}
	ids, err := x.store.ByNumber(ctx, j.Head.Number)
	if err != nil {
		return nil, err
	}
	for _, id := range ids {
		s, err := x.jobs.Load(ctx, id)
		var refused *bench.Refusal
		if errors.As(err, &refused) && refused.Kind == bench.Damaged {
			continue
		}
		if err != nil {
			return nil, err
		}
		if jobfile.Same(s.Job, j) {
			return s, nil
		}
	}
	return nil, nil
}

// isThere is the refusal for a job that already exists.
func isThere(s *bench.Snapshot) error {
	return &bench.Refusal{Kind: bench.Conflict, Already: &bench.Already{Job: s.ID, Number: s.Job.Head.Number},
		Message: fmt.Sprintf("Job %s is on this bench already.", s.Job.Head.Number), Kept: "Nothing was changed.",
		Do: "Update it with what the file has beyond it, or keep both, the file as a copy with a new number."}
}

// add stores a job as a new one. It checks again whether it exists, because somebody may have imported it in
// the meantime.
func (x *Transfers) add(ctx context.Context, ch *bench.Change, j *job.Job, as string,
	adopt adopt) (*bench.View, error) {
	if j.Head.Opened.IsZero() {
		j.Head.Opened = x.jobs.Now()
	}
	return x.jobs.AddWith(ctx, ch, func(ch *bench.Change) (_ *job.Job, err error) {
		there, err := x.already(ctx, j)
		if err != nil {
			return nil, err
		}
		if there != nil && as != AsCopy {
			return nil, isThere(there)
		}
		if there != nil {
			j.Head.Number, err = ch.Tx.NextNumber(ctx, x.jobs.Now().Format("2006-"))
		}
		return j, err
	}, adopt)
}

// update adds to a job what its file has in addition.
func (x *Transfers) update(ctx context.Context, ch *bench.Change, id string, file *job.Job,
	adopt adopt) (*bench.View, error) {
	var brought *jobfile.Merged
	v, err := x.jobs.ChangeWith(ctx, ch, id, func(ch *bench.Change, j *job.Job) error {
		merged, m, err := jobfile.Merge(j, file)
		if err != nil {
			return err
		}
		if faults := merged.CheckAppended(len(j.Runs)); len(faults) > 0 {
			return &bench.Refusal{Kind: bench.Conflict,
				Message: fmt.Sprintf("The file does not fit the job: %v.",
					faults[0]), Kept: "The job is unchanged.", Do: "Keep both: import the file as a copy."}
		}
		*j, brought = *merged, m
		return adopt(ch, id)
	})
	if err != nil {
		return nil, err
	}
	out := *v
	out.Imported = brought
	return &out, nil
}

// adopt registers the received pictures and clips with a job, within its change.
type adopt func(ch *bench.Change, jobID string) error

// with receives a job's pictures and clips, and calls do with a function that adopts them. If the job isn't
// stored, they are removed. into is the existing job that they are for, "" for a new one.
func (x *Transfers) with(ctx context.Context, into string, j *job.Job, media []*incoming,
	do func(adopt) (*bench.View, error)) (_ *bench.View, err error) {
	to := map[string]string{}
	for _, m := range media {
		taken, err := x.evidence.Taken(ctx, into, m.ID)
		if err != nil {
			return nil, err
		}
		if taken {
			m.ID = bench.NewID()
			to[m.from] = m.ID
		}
	}
	j.RenameMedia(to)
	var received []string
	defer func() {
		for _, id := range received {
			if err != nil {
				err = errors.Join(err, x.evidence.DropBytes(id))
			}
		}
	}()
	for _, m := range media {
		if m.Clip {
			received = append(received, m.ID)
		}
		err := m.read(func(from io.Reader) (err error) {
			if m.Clip {
				return x.evidence.ReceiveClip(m.Media, from)
			}
			m.picture, err = x.evidence.ReceivePhoto(ctx, from)
			return err
		})
		if err != nil {
			return nil, damagedZip(m.file.Name, err)
		}
	}
	return do(func(ch *bench.Change, jobID string) error {
		for _, m := range media {
			var err error
			if m.Clip {
				err = x.evidence.AdoptClip(ctx, ch, jobID, m.Media)
			} else {
				err = x.evidence.AdoptPhoto(ctx, ch, jobID, m.ID, m.picture)
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// read opens a file in a zip.
func (m *incoming) read(do func(io.Reader) error) error {
	f, err := m.file.Open()
	if err != nil {
		return err
	}
	return errors.Join(do(f), f.Close())
}

var _ Store = (*store.Store)(nil)
