package probe

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/machine/contents"
)

// listFiles begins the names of the lists that are being made, in the probe's folder.
const listFiles = "files-"

// files lists a folder's files for the bench, or compares them with the list that the bench has. What an interrupted order
// has read stays in the probe's folder, and the next one like it resumes there.
func (j *Joined) files(ctx context.Context, o *order.Order) error {
	var before []manifest.Entry
	if o.Kind == order.Compare {
		var err error
		if before, err = j.before(ctx); err != nil {
			return err
		}
	}
	like := sha256.Sum256([]byte(string(o.Kind) + "\x00" + o.Dir + "\x00" + o.Folder))
	out := filepath.Join(j.dir, listFiles+hex.EncodeToString(like[:8])+".gz")
	tell, told := j.reporter(ctx, o)
	defer told()
	j.say("Reading the files%s", map[bool]string{true: ", gently"}[o.Gentle])
	var last time.Duration
	folder, sum, err := j.computer.List(ctx, o, out, j.dir, func(p drivetest.Progress) {
		j.hold(ctx, p.Elapsed-last)
		last = p.Elapsed
		tell(0, p)
	})
	if err != nil {
		return err
	}
	defer os.Remove(out)
	if o.Kind == order.Compare {
		now, err := contents.ReadList(out)
		if err != nil {
			return err
		}
		return j.put("compared", order.Compared{Order: o.ID, Difference: *manifest.Compare(before, now, manifest.UsualRules())})
	}
	list, err := os.ReadFile(out)
	if err != nil {
		return err
	}
	if len(list) > order.MostList {
		return fmt.Errorf("the list of %d files is larger than %d MB; choose a smaller folder, or make it with "+
			"nowthen-probe manifest", sum.Files, order.MostList>>20)
	}
	return j.put("listed", order.FileList{Order: o.ID, Folder: folder, Files: sum.Files, Bytes: sum.Bytes,
		Unreadable: sum.Unreadable, List: list})
}

// before is the list that the bench has of the job's old drive.
func (j *Joined) before(ctx context.Context) ([]manifest.Entry, error) {
	var l *order.FileList
	if err := j.again(ctx, func() (err error) { l, err = j.bench.Listed(ctx); return err }); err != nil {
		return nil, err
	}
	path := filepath.Join(j.dir, listFiles+"before.gz")
	defer os.Remove(path)
	if err := os.WriteFile(path, l.List, 0o600); err != nil {
		return nil, err
	}
	list, err := contents.ReadList(path)
	if err != nil {
		return nil, fmt.Errorf("the list of the old drive's files: %w", err)
	}
	return list, nil
}

// unlisted removes what unfinished lists have left.
func (j *Joined) unlisted() (err error) {
	left, _ := filepath.Glob(filepath.Join(j.dir, listFiles+"*"))
	for _, path := range left {
		err = errors.Join(err, os.Remove(path))
	}
	return err
}

// List reads the folder of an order, or the users' own.
func (This) List(ctx context.Context, o *order.Order, out, skip string, tell func(drivetest.Progress)) (folder string,
	sum manifest.Listed, err error) {
	folder = o.Folder
	if folder == "" {
		folder = usersFolder(o.Dir)
	}
	whole, _, err := contents.Sizes(ctx, folder, 0, 0)
	if err != nil {
		return folder, sum, err
	}
	if rel, err := filepath.Rel(folder, skip); err == nil && filepath.IsLocal(rel) {
		if own, _, err := contents.Sizes(ctx, skip, 0, 0); err == nil {
			whole.Bytes -= own.Bytes
		}
	}
	began := time.Now()
	sum, err = contents.List(ctx, folder, out, contents.Listing{Gentle: o.Gentle, Skip: []string{skip},
		Each: func(sum manifest.Listed) {
			p := drivetest.Progress{Bytes: sum.Bytes, Elapsed: time.Since(began), TempC: math.NaN(), HalfWidth: math.NaN()}
			if whole.Bytes > 0 {
				p.Done = min(1, float64(sum.Bytes)/float64(whole.Bytes))
			}
			tell(p)
		}})
	return folder, sum, err
}

// usersFolder is where the users' own files are on a volume: the folder that holds theirs, else the whole volume.
func usersFolder(mount string) string {
	for _, name := range []string{"Users", "home"} {
		folder := filepath.Join(mount+string(filepath.Separator), name)
		if info, err := os.Stat(folder); err == nil && info.IsDir() {
			return folder
		}
	}
	return filepath.Clean(mount + string(filepath.Separator))
}
