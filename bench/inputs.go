package bench

import (
	"fmt"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"sync"

	"github.com/go-playground/validator/v10"

	"nowthen/core/job"
)

// Inputs of requests have types of their own: here a misspelt member is refused, while in a job file it is kept
// for programs that know it.

// Customer is a customer in a request.
type Customer struct {
	Name    string `json:"name" validate:"max=200"`
	Contact string `json:"contact" validate:"max=500"`
}

// Job returns it as the job has it.
func (c Customer) Job() job.Customer {
	return job.Customer{Name: strings.TrimSpace(c.Name), Contact: strings.TrimSpace(c.Contact)}
}

// Computer describes a computer. ID and Simulated may be sent along and
// change nothing: they are the bench's.
type Computer struct {
	ID          string `json:"id"`
	Maker       string `json:"maker" validate:"max=200"`
	Model       string `json:"model" validate:"max=200"`
	Processor   string `json:"processor" validate:"max=200"`
	MemoryBytes int64  `json:"memory_bytes" validate:"min=0,max=70368744177664" say:"A computer has between 0 and 65,536 GiB of memory; give it in GiB."`
	Graphics    string `json:"graphics" validate:"max=200"`
	System      string `json:"system" validate:"max=200"`
	Simulated   string `json:"simulated"`
}

// Job returns it as the job has it.
func (c Computer) Job() job.Computer {
	return job.Computer{Maker: c.Maker, Model: c.Model, Processor: c.Processor, MemoryBytes: c.MemoryBytes,
		Graphics: c.Graphics, System: c.System}
}

// Rated describes a drive's rating.
type Rated struct {
	ReadMBs        float64 `json:"read_mb_s" validate:"min=0,max=100000" say:"A drive is rated between 0 and 100,000 MB/s; check the unit (MB/s, not Mbit/s)."`
	WriteMBs       float64 `json:"write_mb_s" validate:"min=0,max=100000" say:"A drive is rated between 0 and 100,000 MB/s; check the unit (MB/s, not Mbit/s)."`
	MaxTempC       float64 `json:"max_temp_c" validate:"min=0,max=150" say:"The temperature limit lies between 0 and 150 °C."`
	EnduranceTB    float64 `json:"endurance_tb" validate:"min=0,max=1000000" say:"The endurance lies between 0 and 1,000,000 TB."`
	ScatteredReads float64 `json:"scattered_reads_s" validate:"min=0,max=1000000000" say:"That is more reads than any drive answers."`
}

// Price describes a price.
type Price struct {
	Amount   string `json:"amount" validate:"amount" say:"Give the price as an amount such as 64.00."`
	Currency string `json:"currency" validate:"len=3,alpha,uppercase" say:"Give the currency with its three letters, such as EUR."`
}

// Drive describes a drive. ID and Simulated may be sent along and change
// nothing: they are the bench's.
type Drive struct {
	ID            string        `json:"id"`
	Kind          job.DriveKind `json:"kind" validate:"oneof=hdd sata-ssd nvme emmc hybrid cached usb-flash" say:"Choose the kind of drive."`
	Maker         string        `json:"maker" validate:"max=200"`
	Model         string        `json:"model" validate:"max=200"`
	CapacityBytes int64         `json:"capacity_bytes" validate:"eq=0|gte=1000000000,max=1000000000000000" say:"A drive has between 1 GB and 1000 TB; check the unit."`
	RPM           int           `json:"rpm" validate:"min=0,max=20000" say:"A disk turns at most 20,000 times a minute."`
	Interface     string        `json:"interface" validate:"max=200"`
	Rated         *Rated        `json:"rated"`
	Price         *Price        `json:"price"`
	Simulated     string        `json:"simulated"`
}

// Job returns it as the job has it.
func (d Drive) Job() job.Drive {
	j := job.Drive{DriveLabel: job.DriveLabel{Kind: d.Kind, Maker: d.Maker, Model: d.Model,
		CapacityBytes: d.CapacityBytes, RPM: d.RPM, Interface: d.Interface}}
	if r := d.Rated; r != nil {
		j.Rated = &job.Rated{ReadMBs: r.ReadMBs, WriteMBs: r.WriteMBs, MaxTempC: r.MaxTempC, EnduranceTB: r.EnduranceTB,
			ScatteredReads: r.ScatteredReads}
	}
	if p := d.Price; p != nil {
		j.Price = &job.Price{Amount: p.Amount, Currency: p.Currency}
	}
	return j
}

// Conditions are test conditions in a request. What is left out is unknown; an empty list of running programs
// says that none runs.
type Conditions struct {
	Power          job.Power     `json:"power" validate:"omitempty,oneof=mains battery"`
	PowerMode      job.PowerMode `json:"power_mode" validate:"omitempty,oneof=normal saving"`
	Busy           *[]job.Busy   `json:"busy" validate:"omitempty,max=20,dive,oneof=recording download update indexing backup scan other"`
	BackgroundMBs  *float64      `json:"background_mb_s" validate:"omitempty,min=0,max=1000000" say:"That lies between 0 and 1,000,000 MB/s."`
	CPUPct         *float64      `json:"cpu_pct" validate:"omitempty,min=0,max=100" say:"That lies between 0 and 100 %."`
	MemoryPct      *float64      `json:"memory_pct" validate:"omitempty,min=0,max=100" say:"That lies between 0 and 100 %."`
	Encrypted      *bool         `json:"encrypted"`
	Encrypting     *bool         `json:"encrypting"`
	FillPct        *float64      `json:"fill_pct" validate:"omitempty,min=0,max=100" say:"That lies between 0 and 100 %."`
	DriveTempC     *float64      `json:"drive_temp_c" validate:"omitempty,min=-40,max=150" say:"That lies between -40 and 150 °C."`
	FirstAfterSwap *bool         `json:"first_after_swap"`
	Attached       *[]string     `json:"attached" validate:"omitempty,max=20,dive,required,max=200" say:"At most 20 devices, each with a name of at most 200 characters."`
	Firmware       *Firmware     `json:"firmware"`
	RoomTempC      *float64      `json:"room_temp_c" validate:"omitempty,min=-40,max=80" say:"That lies between -40 and 80 °C."`
}

// Firmware is the firmware's settings in a request. What is left out is unknown; an empty list of disabled
// ports says that none is disabled.
type Firmware struct {
	Version     string    `json:"version" validate:"max=200"`
	QuickStart  *bool     `json:"quick_start"`
	StorageMode string    `json:"storage_mode" validate:"max=100"`
	Off         *[]string `json:"off" validate:"omitempty,max=20,dive,required,max=200" say:"At most 20 controllers, each with a name of at most 200 characters."`
}

// Job returns them as the job has them.
func (c Conditions) Job() job.Conditions {
	j := job.Conditions{Power: c.Power, PowerMode: c.PowerMode, BackgroundMBs: c.BackgroundMBs, CPUPct: c.CPUPct,
		MemoryPct: c.MemoryPct,
		Encrypted: c.Encrypted, Encrypting: c.Encrypting,
		FillPct: c.FillPct, DriveTempC: c.DriveTempC, FirstAfterSwap: c.FirstAfterSwap, Busy: known(c.Busy), Attached: known(c.Attached), RoomTempC: c.RoomTempC}
	if f := c.Firmware; f != nil && (f.Version != "" || f.QuickStart != nil || f.StorageMode != "" || f.Off != nil) {
		j.Firmware = &job.Firmware{Version: strings.TrimSpace(f.Version), QuickStart: f.QuickStart,
			StorageMode: strings.TrimSpace(f.StorageMode), Off: known(f.Off)}
	}
	return j
}

// known is a given list, which may be empty; nil if none was given.
func known[T any](list *[]T) []T {
	if list == nil {
		return nil
	}
	return append([]T{}, *list...)
}

// amounts matches decimal numbers as prices use them.
var amounts = regexp.MustCompile(`^[0-9]{1,9}([.][0-9]{1,2})?$`)

var validating = sync.OnceValue(func() *validator.Validate {
	v := validator.New(validator.WithRequiredStructEnabled())
	v.RegisterTagNameFunc(func(f reflect.StructField) string {
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		return name
	})
	if err := v.RegisterValidation("amount",
		func(l validator.FieldLevel) bool { return amounts.MatchString(l.Field().String()) }); err != nil {
		panic(err) // the name is this program's own
	}
	return v
})

// Input collects the faults of an input by member name, prefixed with at. A text that is already stored may be
// longer than a new one.
func (f Fields) Input(at string, v any, stored ...string) {
	err := validating().Struct(v)
	wrong, ok := err.(validator.ValidationErrors)
	if !ok {
		return
	}
	for _, e := range wrong {
		if text, ok := e.Value().(string); ok && e.Tag() == "max" && slices.Contains(stored, text) {
			continue
		}
		_, name, _ := strings.Cut(e.Namespace(), ".")
		name, _, _ = strings.Cut(name, "[") // which of a list is wrong, its message says
		if at != "" {
			name = at + "." + name
		}
		f.Check(false, name, inWords(v, e))
	}
}

// inWords is the message for a faulty member: its own, if it has one.
func inWords(v any, e validator.FieldError) string {
	t := reflect.TypeOf(v)
	said := ""
	_, path, _ := strings.Cut(e.StructNamespace(), ".")
	for _, name := range strings.Split(path, ".") {
		for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
			t = t.Elem()
		}
		if t.Kind() != reflect.Struct {
			break
		}
		name, _, _ = strings.Cut(name, "[")
		if field, ok := t.FieldByName(name); ok {
			said, t = field.Tag.Get("say"), field.Type
		}
	}
	switch {
	case said != "":
		return said
	case e.Tag() == "oneof":
		return fmt.Sprintf("%q is not one of %s.", fmt.Sprint(e.Value()), strings.ReplaceAll(e.Param(), " ", ", "))
	case e.Tag() == "max" && e.Kind() == reflect.String:
		return fmt.Sprintf("That is longer than %s characters.", e.Param())
	case e.Tag() == "required":
		return "That is needed."
	}
	return fmt.Sprintf("That does not fit (%s %s).", e.Tag(), e.Param())
}
