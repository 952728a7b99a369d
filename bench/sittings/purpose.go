package sittings

import (
	"context"
	"strings"

	"nowthen/bench"
	"nowthen/core/job"
)

// Purpose is what a sitting is for, and where it took place.
type Purpose struct {
	Purpose job.Purpose `json:"purpose" validate:"omitempty,oneof=visit question check-up" say:"A session is for the visit, for a question, or a check-up."`
	// Question is its question, in words, if it is for one.
	Question string `json:"question" validate:"max=200"`
	// Where is the place of its rounds; nil is the customer's computer.
	Where *Where `json:"where"`
}

// Where is the place of a round.
type Where struct {
	Computer      string        `json:"computer" validate:"required,max=64" say:"Choose the bench or one of the job’s computers."`
	Port          job.Port      `json:"port" validate:"omitempty,oneof=sata m2 usb mmc pcie" say:"A port is sata, m2, usb, mmc or pcie."`
	DriveDigest   string        `json:"drive_digest" validate:"max=128"`
	CapacityBytes int64         `json:"capacity_bytes" validate:"min=0,max=1000000000000000" say:"A drive has at most 1000 TB."`
	Kind          job.DriveKind `json:"kind" validate:"omitempty,oneof=hdd sata-ssd nvme emmc hybrid cached usb-flash" say:"Choose the kind of drive."`
}

// SetPurpose sets what a sitting is for, and where it took place.
func (x *Sittings) SetPurpose(ctx context.Context, ch *bench.Change, jobID, sitting string,
	in Purpose) (*bench.View, error) {
	in.Question = strings.TrimSpace(in.Question)
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := j.Sitting(sitting)
		if s == nil {
			return bench.NoSuch("session", sitting)
		}
		f := bench.Fields{}
		f.Input("", in)
		f.Check(in.Purpose != job.ForQuestion || in.Question != "", "question",
			"Enter the question, such as: on battery.")
		if w := in.Where; w != nil {
			f.Input("where", *w)
			f.Check(w.Computer == "bench" || j.Computer(w.Computer) != nil, "where.computer",
				"Choose the bench or one of the job’s computers.")
		}
		if err := f.Refusal(); err != nil {
			return err
		}
		s.Purpose, s.Question, s.Where = in.Purpose, "", nil
		if in.Purpose == job.ForQuestion {
			s.Question = in.Question
		}
		if in.Where != nil {
			w := job.Where(*in.Where)
			s.Where = &w
		}
		return nil
	})
}
