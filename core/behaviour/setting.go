package behaviour

import (
	"strconv"
	"strings"

	"leitstand/core/keys"
)

// OptionKind is a kind of setting.
type OptionKind uint8

// The kinds of settings.
const (
	NoOption    OptionKind = iota
	RepeatDelay            // how long a key is held before it repeats: Milliseconds
	RepeatRate             // how often it repeats then: PerSecond
	RepeatOf               // whether a key repeats: Repeats
	Accents                // whether holding a letter offers its accents: Truth
	Native                 // one of a system or desktop, by its own name: Truth, Whole, Word or Words
)

// Option says which setting it is.
type Option struct {
	Kind OptionKind
	Key  keys.Key // of RepeatOf
	For  string   // of Native: the system or desktop
	Name string   // of Native: what it is called there
}

// String is the setting in words.
func (o Option) String() string {
	switch o.Kind {
	case RepeatDelay:
		return "repeat delay"
	case RepeatRate:
		return "repeat rate"
	case RepeatOf:
		return "repeat of " + o.Key.String()
	case Accents:
		return "accents of a held letter"
	case Native:
		return o.Name
	case NoOption: // of no setting
	}
	return ""
}

// Value is what a setting is: Milliseconds, PerSecond, Repeats, Truth, Whole, Word or Words.
type Value interface {
	String() string
	isValue()
}

// The types of values.
type (
	Milliseconds int
	PerSecond    int
	Repeats      bool
	Truth        bool
	Whole        int64
	Word         string
	Words        []string
)

// String is a time in milliseconds.
func (v Milliseconds) String() string { return strconv.Itoa(int(v)) + "ms" }

// String is a number of times a second.
func (v PerSecond) String() string { return strconv.Itoa(int(v)) + "/s" }

// String says whether a key repeats.
func (v Repeats) String() string { return map[bool]string{true: "always", false: "never"}[bool(v)] }

// String is true or false.
func (v Truth) String() string { return strconv.FormatBool(bool(v)) }

// String is the number.
func (v Whole) String() string { return strconv.FormatInt(int64(v), 10) }

// String is the text.
func (v Word) String() string { return string(v) }

// String lists the texts.
func (v Words) String() string { return "[" + strings.Join(v, ", ") + "]" }

func (Milliseconds) isValue() {}
func (PerSecond) isValue()    {}
func (Repeats) isValue()      {}
func (Truth) isValue()        {}
func (Whole) isValue()        {}
func (Word) isValue()         {}
func (Words) isValue()        {}

// Set is the binding of a setting.
func Set(o Option, v Value) Binding {
	return Binding{Level: Setting, Option: o, Effect: Effect{Kind: Sets, Value: v}}
}

// Delay is the value of a setting that is a time, in milliseconds, 0 for another.
func (e Effect) Delay() int {
	v, _ := e.Value.(Milliseconds)
	return int(v)
}

// Rate is the value of a setting that is a number of times a second, 0 for another.
func (e Effect) Rate() int {
	v, _ := e.Value.(PerSecond)
	return int(v)
}
