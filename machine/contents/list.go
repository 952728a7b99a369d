package contents

import (
	"bufio"
	"compress/gzip"
	"context"
	"errors"
	"io"
	"os"
	"strings"

	"nowthen/core/manifest"
)

// Names of an unfinished list.
const (
	unfinished = ".unfinished"
	next       = ".next"
)

// Listing says how a folder is listed.
type Listing struct {
	Gentle bool
	// Skip are files and folders that are not the folder's own, besides the list itself.
	Skip []string
	// Resumed is called before the reading where an interrupted one has read so many files already; nil: nobody wants
	// to know.
	Resumed func(files int)
	// Each is called after every file.
	Each func(manifest.Listed)
}

// List writes a list of a folder's files to the file out, compressed if its name ends in .gz. What an interrupted call
// has read stays beside it, and the next call resumes there.
func List(ctx context.Context, dir, out string, o Listing) (sum manifest.Listed, err error) {
	part := out + unfinished
	known := readBefore(part)
	if len(known) > 0 && o.Resumed != nil {
		o.Resumed(len(known))
	}
	var stopped error
	err = writeList(part+next, strings.HasSuffix(out, ".gz"), func(w *manifest.Writer) error {
		stopped = Read(ctx, dir, Options{Known: known, Gentle: o.Gentle, Skip: append([]string{part, part + next, out}, o.Skip...),
			Each: func(e manifest.Entry) error {
				sum.Files++
				sum.Bytes += e.Size
				if e.Why != "" {
					sum.Unreadable++
				}
				delete(known, e.Path)
				if o.Each != nil {
					o.Each(sum)
				}
				return w.Write(e)
			}})
		if stopped == nil {
			return nil
		}
		for _, e := range known { // what an earlier call had read stays
			if err := w.Write(e); err != nil {
				return err
			}
		}
		return nil
	})
	switch {
	case err != nil: // an earlier state stays as it is
		return sum, errors.Join(err, stopped, os.Remove(part+next))
	case stopped != nil:
		return sum, errors.Join(stopped, os.Rename(part+next, part))
	}
	if err := os.Rename(part+next, out); err != nil {
		return sum, err
	}
	if err := os.Remove(part); err != nil && !errors.Is(err, os.ErrNotExist) {
		return sum, err
	}
	return sum, nil
}

// ReadList reads a list that may be compressed; with an error, it returns what came before it.
func ReadList(path string) ([]manifest.Entry, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	in := bufio.NewReader(f)
	if magic, _ := in.Peek(2); string(magic) != "\x1f\x8b" {
		return manifest.Read(in)
	}
	unzipped, err := gzip.NewReader(in)
	if err != nil {
		return nil, err
	}
	return manifest.Read(unzipped)
}

// readBefore returns what an interrupted call has read already, by path.
func readBefore(part string) map[string]manifest.Entry {
	// A file may end in the middle of a line; everything before that counts as read.
	list, _ := ReadList(part)
	if killed, _ := ReadList(part + next); len(killed) > len(list) && os.Rename(part+next, part) == nil {
		list = killed
	}
	known := make(map[string]manifest.Entry, len(list))
	for _, e := range list {
		known[e.Path] = e
	}
	return known
}

// writeList writes a list durably; fill produces its content.
func writeList(path string, zip bool, fill func(*manifest.Writer) error) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	buffered := bufio.NewWriterSize(f, 64<<10)
	var out io.Writer = buffered
	finish := buffered.Flush
	if zip {
		zipped := gzip.NewWriter(buffered)
		out = zipped
		finish = func() error { return errors.Join(zipped.Close(), buffered.Flush()) }
	}
	w, err := manifest.NewWriter(out)
	if err == nil {
		err = fill(w)
	}
	return errors.Join(err, finish(), f.Sync(), f.Close())
}
