package probe

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"

	"nowthen/durable"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/oklog/ulid/v2"
)

// Outbox stores unconfirmed messages on disk, one file each, in order. Refused messages stay beside them under
// another name.
type Outbox struct {
	dir string

	mu      sync.Mutex // held while it is written to or read
	sending sync.Mutex // held while one sends
	last    ulid.ULID
}

// Endings of the files.
const (
	waitsEnding   = ".json"
	refusedEnding = ".refused"
)

// message is what is sent, and which word it is ([Bench.Say]).
type message struct {
	What string         `json:"what"`
	Body jsontext.Value `json:"body"`
}

// OpenOutbox opens the outbox in a folder, which it creates if necessary.
func OpenOutbox(dir string) (*Outbox, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("the folder for unsent results: %w", err)
	}
	if _, err := durable.Sweep(dir); err != nil {
		return nil, fmt.Errorf("removing incomplete files: %w", err)
	}
	return &Outbox{dir: dir}, nil
}

// Put stores a message until it is sent. It is on disk when Put returns.
func (o *Outbox) Put(what string, v any) error {
	body, err := json.Marshal(v)
	if err != nil {
		return err
	}
	text, err := json.Marshal(message{what, body})
	if err != nil {
		return err
	}
	o.mu.Lock()
	defer o.mu.Unlock()
	if err := durable.Write(filepath.Join(o.dir, o.name()+waitsEnding), text); err != nil {
		return fmt.Errorf("storing a result: %w", err)
	}
	return nil
}

// name is later in the alphabet than all before it, also than those of an earlier start whose
// clock was ahead.
func (o *Outbox) name() string {
	id := ulid.Make()
	names, _ := o.waiting() // none is none
	for id.Compare(o.last) <= 0 || len(names) > 0 && id.String()+waitsEnding <= names[len(names)-1] {
		after := o.last
		if len(names) > 0 {
			if n, err := ulid.ParseStrict(strings.TrimSuffix(names[len(names)-1], waitsEnding)); err == nil &&
				n.Compare(after) > 0 {
				after = n
			}
		}
		for i := len(after) - 1; i >= 0; i-- { // the next one
			if after[i]++; after[i] != 0 {
				break
			}
		}
		id = after
	}
	o.last = id
	return id.String()
}

// waiting returns the names of the unsent files, oldest first.
func (o *Outbox) waiting() ([]string, error) {
	entries, err := os.ReadDir(o.dir)
	if err != nil {
		return nil, err
	}
	var names []string
	for _, e := range entries {
		if strings.HasSuffix(e.Name(), waitsEnding) {
			names = append(names, e.Name())
		}
	}
	slices.Sort(names)
	return names, nil
}

// notInNames are characters that not every system allows in file names.
var notInNames = regexp.MustCompile(`[^0-9A-Za-z-]`)

// changeJob sets the messages of one job aside when the computer joins another, and restores those set aside
// for the other one.
func (o *Outbox) changeJob(from, to string) error {
	apart := func(job string) string { return o.dir + "-" + notInNames.ReplaceAllString(job, "_") }
	o.mu.Lock()
	defer o.mu.Unlock()
	if from != "" && from != to {
		if err := moveAll(o.dir, apart(from)); err != nil {
			return fmt.Errorf("storing unsent results of job %s: %w", from, err)
		}
	}
	if err := moveAll(apart(to), o.dir); err != nil {
		return fmt.Errorf("resuming unsent results of job %s: %w", to, err)
	}
	_ = os.Remove(apart(to)) // it is empty, or was never there
	return nil
}

// moveAll moves the files of a folder into another. Nothing is made where there are none.
func moveAll(from, to string) error {
	entries, err := os.ReadDir(from)
	if errors.Is(err, fs.ErrNotExist) || err == nil && len(entries) == 0 {
		return nil
	}
	if err == nil {
		err = os.MkdirAll(to, 0o700)
	}
	for _, e := range entries {
		err = errors.Join(err, os.Rename(filepath.Join(from, e.Name()), filepath.Join(to, e.Name())))
	}
	return err
}

// Len is the number of unsent messages.
func (o *Outbox) Len() int {
	o.mu.Lock()
	defer o.mu.Unlock()
	names, _ := o.waiting()
	return len(names)
}

// Send sends the messages, oldest first, until none is left or one can't be sent. Permanently refused ones stay
// on disk under another name and are reported.
func (o *Outbox) Send(ctx context.Context, b *Bench, refused func(path string, err error)) error {
	o.sending.Lock()
	defer o.sending.Unlock()
	for {
		o.mu.Lock()
		names, err := o.waiting()
		o.mu.Unlock()
		if err != nil || len(names) == 0 {
			return err
		}
		path := filepath.Join(o.dir, names[0])
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		var m message
		if err := json.Unmarshal(text, &m); err != nil {
			// It was cut off, as by a full drive. It is kept for inspection.
			if err := o.setAside(path, fmt.Errorf("it can't be read: %w", err), refused); err != nil {
				return err
			}
			continue
		}
		err = b.Say(ctx, m.What, m.Body)
		var no *RefusedError
		if errors.As(err, &no) {
			if err := o.setAside(path, no, refused); err != nil {
				return err
			}
			continue
		}
		if err != nil {
			return err
		}
		if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
}

func (o *Outbox) setAside(path string, why error, refused func(path string, err error)) error {
	to := strings.TrimSuffix(path, waitsEnding) + refusedEnding
	if err := os.Rename(path, to); err != nil {
		return err
	}
	refused(to, why)
	return nil
}
