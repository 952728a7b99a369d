package visit

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
)

// SetupChange is a later change of a setup; nil members stay unchanged.
type SetupChange struct {
	// Relation is how its drive joins the computer, "" if not known; Of is the drive that it replaces or joins, or
	// that goes back; Then's by default.
	Relation *job.Relation `json:"relation" validate:"omitempty,eq=|oneof=replaces added cache returns tried" say:"Choose whether the drive replaces the old one, is added, caches it, goes back in, or is only tried."`
	Of       *string       `json:"of" validate:"omitempty,max=64"`
	// CacheDrive is a drive that caches the setup's drive; CacheMode is its mode, as the system names it.
	CacheDrive    *bench.Drive `json:"cache_drive"`
	CacheMode     *string      `json:"cache_mode" validate:"omitempty,max=100"`
	Origin        *job.Origin  `json:"origin" validate:"omitempty,eq=|oneof=as-arrived cloned fresh restored" say:"A system came as it was, was cloned, installed afresh or restored."`
	SystemVersion *string      `json:"system_version" validate:"omitempty,max=200"`
	AlsoInstalled *string      `json:"also_installed" validate:"omitempty,max=500"`
	Attached      *Attached    `json:"attached"`
	Link          *Link        `json:"link"`
	// StandIn: its drive stands in for one that couldn't be measured.
	StandIn *bool       `json:"stand_in"`
	Drive   *DriveFacts `json:"drive"`
}

// Attached is how a drive is connected, as stated.
type Attached struct {
	Port       job.Port `json:"port" validate:"omitempty,oneof=sata m2 usb mmc pcie" say:"A port is sata, m2, usb, mmc or pcie."`
	LinkMBs    float64  `json:"link_mb_s" validate:"min=0,max=100000" say:"That lies between 0 and 100,000 MB/s."`
	CapableMBs float64  `json:"capable_mb_s" validate:"min=0,max=100000" say:"That lies between 0 and 100,000 MB/s."`
}

// Link is the link of a drive, as stated.
type Link struct {
	Kind       job.Port `json:"kind" validate:"omitempty,oneof=sata pcie usb mmc" say:"A link is sata, pcie, usb or mmc."`
	Negotiated string   `json:"negotiated" validate:"max=40"`
}

// DriveFacts are stated facts of a drive.
type DriveFacts struct {
	RPM        *int     `json:"rpm" validate:"omitempty,min=0,max=20000" say:"A disk turns at most 20,000 times a minute."`
	QueueDepth *int     `json:"queue_depth" validate:"omitempty,min=0,max=65536" say:"A drive takes at most 65,536 requests at once."`
	MaxTempC   *float64 `json:"max_temp_c" validate:"omitempty,min=0,max=150" say:"The temperature limit lies between 0 and 150 °C."`
}

// join sets how the drive of a setup joins the computer, relative to Then's drive if no other is named. A cache
// is two drives: the existing one stays the setup's, and the new one caches it.
func join(j *job.Job, s *job.Setup, relation job.Relation) {
	of := s.Of
	if then := j.SetupAs(job.Then); of == "" && then != nil && then.ID != s.ID {
		of = then.Drive
	}
	if how, _ := s.Joins(); how == job.JoinsAsCache && relation != job.JoinsAsCache {
		s.Drive, s.CacheDrive, s.CacheMode = s.CacheDrive, "", ""
	}
	if relation == job.JoinsAsCache && s.CacheDrive == "" && of != "" && of != s.Drive {
		s.Drive, s.CacheDrive = of, s.Drive
	}
	s.Relation, s.Of, s.Replaces, s.Adds = relation, of, "", false
	if relation == "" {
		s.Of = ""
	}
	if relation == job.JoinsReplacing {
		s.Replaces = of // as older programs read it
	}
}

// AmendSetup changes a setup.
func (x *Visits) AmendSetup(ctx context.Context, ch *bench.Change, jobID, setup string,
	c SetupChange) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return bench.NoSuch("setup", setup)
		}
		f := bench.Fields{}
		f.Input("", c)
		if c.Of != nil {
			f.Check(*c.Of == "" || j.Drive(*c.Of) != nil, "of",
				fmt.Sprintf("There is no drive %q in this job.", *c.Of))
		}
		if c.CacheDrive != nil {
			f.Input("cache_drive", *c.CacheDrive)
		}
		how, _ := s.Joins()
		if c.Relation != nil {
			how = *c.Relation
		}
		f.Check(c.CacheDrive == nil || how == job.JoinsAsCache, "cache_drive",
			"A cache drive belongs to a drive that is cached: say relation cache as well.")
		if err := f.Refusal(); err != nil {
			return err
		}
		if c.Of != nil {
			s.Of = *c.Of
		}
		if c.CacheDrive != nil {
			d := c.CacheDrive.Job()
			d.ID = bench.FreeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
			j.Drives = append(j.Drives, d)
			s.CacheDrive = d.ID
		}
		if c.Relation != nil {
			join(j, s, *c.Relation)
		}
		c.state(j, s)
		return nil
	})
}

// state copies stated facts of a setup and its drive.
func (c *SetupChange) state(j *job.Job, s *job.Setup) {
	for _, text := range []struct {
		said *string
		to   *string
	}{{c.CacheMode, &s.CacheMode}, {c.SystemVersion, &s.System.Version}, {c.AlsoInstalled,
		&s.System.AlsoInstalled}} {
		if text.said != nil {
			*text.to = strings.TrimSpace(*text.said)
		}
	}
	if c.Origin != nil {
		s.System.Origin = *c.Origin
	}
	if c.SystemVersion != nil {
		s.System.Source = job.Stated
	}
	if a := c.Attached; a != nil {
		s.Attached.Port, s.Attached.LinkMBs, s.Attached.CapableMBs = a.Port, a.LinkMBs, a.CapableMBs
		s.Attached.Source, s.Attached.Stated = job.Stated, nil
	}
	if l := c.Link; l != nil {
		s.Link = &job.Link{Kind: l.Kind, Negotiated: l.Negotiated, Source: job.Stated}
	}
	if c.StandIn != nil {
		s.StandIn = *c.StandIn
	}
	if d := j.Drive(s.Drive); d != nil && c.Drive != nil {
		if c.Drive.RPM != nil {
			d.RPM = *c.Drive.RPM
		}
		if c.Drive.QueueDepth != nil {
			d.QueueDepth = *c.Drive.QueueDepth
		}
		if c.Drive.MaxTempC != nil {
			if d.Rated == nil {
				d.Rated = &job.Rated{}
			}
			d.Rated.MaxTempC = *c.Drive.MaxTempC
		}
	}
}

// SetFate sets what happened to a drive; "" clears it.
func (x *Visits) SetFate(ctx context.Context, ch *bench.Change, jobID, drive string,
	fate job.Fate) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		d := j.Drive(drive)
		if d == nil {
			return bench.NoSuch("drive", drive)
		}
		f := bench.Fields{}
		f.Check(fate == "" || slices.Contains(job.Fates, fate), "fate",
			"Choose what becomes of the old drive: returned, kept or destroyed.")
		if err := f.Refusal(); err != nil {
			return err
		}
		d.Fate = fate
		return nil
	})
}

// UnpassGate undoes the last gate. The gate "old drive out" can't be undone once the new drive was measured.
func (x *Visits) UnpassGate(ctx context.Context, ch *bench.Change, jobID string,
	gate job.GateName) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		if j.Gate(gate) == nil {
			return bench.Refuse(bench.Missing, "There is no checkpoint %q.", gate)
		}
		last := j.Head.Gates[len(j.Head.Gates)-1]
		if last.Name != gate {
			return bench.Refuse(bench.Conflict, "Another checkpoint was passed since. Undo that one first.")
		}
		if gate == job.GateOldDriveOut || gate == job.GateCaseClosed {
			for i := range j.Runs {
				r := &j.Runs[i]
				at, s := r.At, j.Sitting(r.Sitting)
				if at.IsZero() {
					at = s.Started
				}
				if r.Kept() && !at.Before(last.At.Truncate(time.Second)) && j.Setup(s.Setup).Role != job.Then {
					return bench.Refuse(bench.Conflict,
						"Runs were kept on the new drive since. Set them aside first, then undo the checkpoint.")
				}
			}
		}
		j.Head.Gates = j.Head.Gates[:len(j.Head.Gates)-1]
		return nil
	})
}
