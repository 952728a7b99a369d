package probes

import (
	"context"

	"nowthen/bench"
	"nowthen/core/order"
	"nowthen/core/round"
)

// FilesRequest asks a probe to list the files of the old drive, or to check which of them came across.
type FilesRequest struct {
	Kind   order.Kind `json:"kind"`  // list, compare
	Mount  string     `json:"mount"` // of a volume on the drive
	Folder string     `json:"folder"`
}

// maxFolder bounds the path of a folder, bytes.
const maxFolder = 4096

// Files lets a probe read a folder's files: to list them, or to compare them with the list. What an earlier request that
// was stopped has read isn't read again.
func (x *Probes) Files(ctx context.Context, ch *bench.Change, jobID, id string, in FilesRequest) ([]Probe, error) {
	f := bench.Fields{}
	bench.OneOf(f, "kind", in.Kind, order.List, order.Compare)
	f.Check(in.Mount != "", "mount", "Choose a drive.")
	f.Check(len(in.Folder) <= maxFolder, "folder", "The path is too long.")
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	r, j, err := x.with(ctx, jobID, id)
	switch {
	case err != nil:
		return nil, err
	case x.away(id):
		return nil, awayRefusal()
	case r.Facts.VolumeOf(in.Mount) == nil:
		return nil, bench.Refuse(bench.Conflict, "The probe sees no volume %q. Refresh the list.", in.Mount)
	}
	o := order.Order{ID: bench.NewID(), Kind: in.Kind, Dir: in.Mount, Folder: in.Folder,
		Gentle: in.Kind == order.List && round.Gentle(j.Tests)}
	return x.begin(ctx, ch, jobID, id, o, Checking{Mount: in.Mount, Folder: in.Folder})
}

// begin gives a probe an order whose progress and end are shown as a check.
func (x *Probes) begin(ctx context.Context, ch *bench.Change, jobID, id string, o order.Order, c Checking) ([]Probe, error) {
	c.Order, c.Kind, c.At, c.State = o.ID, o.Kind, x.jobs.Now(), running
	if err := x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		if err := x.Give(ctx, ch, jobID, id, o); err != nil {
			return err
		}
		return x.change(ctx, ch, id, func(r *record) error {
			r.Checking = &c
			return nil
		})
	}); err != nil {
		return nil, err
	}
	x.wake(id)
	x.tell(jobID)
	return x.Of(ctx, jobID)
}

// Reads returns the job of a probe and which simulated computer it is, "" if it is real, where it was asked for a file list
// or comparison by that order.
func (x *Probes) Reads(ctx context.Context, id, orderID string) (jobID, simulated string, err error) {
	r, err := x.stored(ctx, id)
	if err != nil {
		return "", "", err
	}
	if c := r.Checking; c == nil || c.Order != orderID || c.Kind != order.List && c.Kind != order.Compare {
		return "", "", bench.Refuse(bench.Conflict, "Nobody asked for that list.")
	}
	return r.Job, r.Simulated, nil
}
