package store

import (
	"context"
	"fmt"
	"reflect"
	"time"

	"github.com/go-json-experiment/json"
	"gorm.io/gorm/schema"

	"nowthen/core/job"
)

// The tables' rows. Bodies are the core's types, written by the serializer "open",
// which keeps members that this version does not know.

func init() {
	schema.RegisterSerializer("open", open{})
	schema.RegisterSerializer("instant", instant{})
}

// open is a value as JSON.
type open struct{}

// Scan implements [schema.SerializerInterface].
func (open) Scan(ctx context.Context, field *schema.Field, dst reflect.Value, stored any) error {
	v := reflect.New(field.FieldType)
	var text []byte
	switch s := stored.(type) {
	case string:
		text = []byte(s)
	case []byte:
		text = s
	default:
		return fmt.Errorf("%s: a %T is no JSON", field.Name, stored)
	}
	if err := json.Unmarshal(text, v.Interface()); err != nil {
		return damaged(fmt.Errorf("%s: %w", field.Name, err))
	}
	field.ReflectValueOf(ctx, dst).Set(v.Elem())
	return nil
}

// Value implements [schema.SerializerInterface].
func (open) Value(_ context.Context, _ *schema.Field, _ reflect.Value, v any) (any, error) {
	text, err := json.Marshal(v, json.Deterministic(true))
	return string(text), err
}

// instant is a time as text that sorts as the times do.
type instant struct{}

const instantFormat = "2006-01-02T15:04:05.000000000Z"

func stamp(t time.Time) string { return t.UTC().Format(instantFormat) }

// Scan implements [schema.SerializerInterface].
func (instant) Scan(ctx context.Context, field *schema.Field, dst reflect.Value, stored any) error {
	var t time.Time
	text, ok := stored.(string)
	if !ok {
		return fmt.Errorf("%s: a %T is no time", field.Name, stored)
	}
	if text != "" {
		var err error
		if t, err = time.Parse(time.RFC3339Nano, text); err != nil {
			return fmt.Errorf("%s: %w", field.Name, err)
		}
	}
	field.ReflectValueOf(ctx, dst).Set(reflect.ValueOf(t))
	return nil
}

// Value implements [schema.SerializerInterface].
func (instant) Value(_ context.Context, _ *schema.Field, _ reflect.Value, v any) (any, error) {
	return stamp(v.(time.Time)), nil
}

type jobModel struct {
	ID       string `gorm:"primaryKey"`
	Number   string
	Opened   string
	Finished bool
	Binned   bool
	Search   string
	Revision int64 // goes up with every change of the job
	// Body is the job without its items.
	Body job.Job `gorm:"serializer:open"`
}

func (jobModel) TableName() string { return "jobs" }

// Item is what all items of a job have.
type Item struct {
	JobID    string `gorm:"primaryKey"`
	ID       string `gorm:"primaryKey"`
	Position int
}

type computerModel struct {
	Item `gorm:"embedded"`
	Body job.Computer `gorm:"serializer:open"`
}

type driveModel struct {
	Item `gorm:"embedded"`
	Body job.Drive `gorm:"serializer:open"`
}

type testModel struct {
	Item `gorm:"embedded"`
	Body job.Test `gorm:"serializer:open"`
}

type setupModel struct {
	Item       `gorm:"embedded"`
	ComputerID string
	DriveID    string
	Body       job.Setup `gorm:"serializer:open"`
}

type sittingModel struct {
	Item    `gorm:"embedded"`
	SetupID string
	Body    job.Sitting `gorm:"serializer:open"`
}

type runModel struct {
	Item      `gorm:"embedded"`
	TestID    string
	SittingID string
	Aside     bool
	Repeated  bool
	Body      job.Run `gorm:"serializer:open"`
}

func (computerModel) TableName() string { return "computers" }
func (driveModel) TableName() string    { return "drives" }
func (testModel) TableName() string     { return "tests" }
func (setupModel) TableName() string    { return "setups" }
func (sittingModel) TableName() string  { return "sittings" }
func (runModel) TableName() string      { return "runs" }

type traceModel struct {
	JobID string    `gorm:"primaryKey"`
	RunID string    `gorm:"primaryKey"`
	Body  job.Trace `gorm:"serializer:open"`
}

func (traceModel) TableName() string { return "traces" }

type timerModel struct {
	JobID string `gorm:"primaryKey"`
	Body  string
}

func (timerModel) TableName() string { return "timers" }

type reportModel struct {
	ID     string `gorm:"primaryKey"`
	JobID  string
	Issued time.Time `gorm:"serializer:instant"`
	Body   string
}

func (reportModel) TableName() string { return "reports" }

type folderModel struct {
	Dir string `gorm:"primaryKey"`
}

func (folderModel) TableName() string { return "folders" }

type templateModel struct {
	ID   string `gorm:"primaryKey"`
	Body string
}

func (templateModel) TableName() string { return "templates" }

type photoModel struct {
	ID    string `gorm:"primaryKey"`
	JobID string
	Type  string
	Body  []byte
}

func (photoModel) TableName() string { return "photos" }

type clipModel struct {
	ID    string `gorm:"primaryKey"`
	JobID string
	Body  string
}

func (clipModel) TableName() string { return "clips" }

type roundModel struct {
	ID      string `gorm:"primaryKey"`
	JobID   string
	Running bool
	Body    string
}

func (roundModel) TableName() string { return "rounds" }

type technicianModel struct {
	Name string `gorm:"primaryKey"`
	Body string
}

func (technicianModel) TableName() string { return "technicians" }

type settingModel struct {
	Name string `gorm:"primaryKey"`
	Body string
}

func (settingModel) TableName() string { return "settings" }

type sessionModel struct {
	Token string    `gorm:"primaryKey"`
	Since time.Time `gorm:"serializer:instant"`
	Seen  time.Time `gorm:"serializer:instant"`
}

func (sessionModel) TableName() string { return "sessions" }

type pairingModel struct {
	Code  string `gorm:"primaryKey"`
	JobID string
	Until time.Time `gorm:"serializer:instant"`
}

func (pairingModel) TableName() string { return "pairings" }

type probeModel struct {
	ID    string `gorm:"primaryKey"`
	JobID string
	Token string
	Gone  bool
	Body  string
}

func (probeModel) TableName() string { return "probes" }

type carriedListsModel struct {
	JobID string    `gorm:"primaryKey"`
	Until time.Time `gorm:"serializer:instant"`
	Body  string
}

func (carriedListsModel) TableName() string { return "carried_lists" }

type fileListModel struct {
	JobID string    `gorm:"primaryKey"`
	Until time.Time `gorm:"serializer:instant"`
	Told  string
	List  []byte
}

func (fileListModel) TableName() string { return "file_lists" }

type modelModel struct {
	Name string `gorm:"primaryKey"`
	Body string
}

func (modelModel) TableName() string { return "models" }

type shareModel struct {
	ID       string `gorm:"primaryKey"`
	Token    string
	JobID    string
	ReportID string
	Made     time.Time `gorm:"serializer:instant"`
	Until    time.Time `gorm:"serializer:instant"`
	Revoked  bool
	Opened   int
}

func (shareModel) TableName() string { return "shares" }
