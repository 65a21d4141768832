package change

import (
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"unicode/utf8"
)

// encoded is a change with all that it has, so that it can be kept and made anew.
type encoded struct {
	Kind     string         `json:"kind"` // as in Described
	Path     string         `json:"path,omitempty"`
	Data     *DescribedItem `json:"data,omitempty"`
	Merged   bool           `json:"merged,omitempty"`
	Text     string         `json:"text,omitempty"`
	From     string         `json:"from,omitempty"`
	Gone     bool           `json:"gone,omitempty"`
	Begins   string         `json:"begins,omitempty"`
	Ends     string         `json:"ends,omitempty"`
	First    string         `json:"first,omitempty"`
	Store    string         `json:"store,omitempty"`
	Key      string         `json:"key,omitempty"`
	To       *DescribedItem `json:"to,omitempty"`
	Default  *DescribedItem `json:"default,omitempty"`
	Label    string         `json:"label,omitempty"`
	Merging  Merging        `json:"merging,omitempty"`
	Sole     bool           `json:"sole,omitempty"`
	Assumed  bool           `json:"assumed,omitempty"`
	Item     string         `json:"item,omitempty"`
	Between  string         `json:"between,omitempty"`
	Command  *Command       `json:"command,omitempty"`
	Lines    []string       `json:"lines,omitempty"`
	In       string         `json:"in,omitempty"`
	Serves   []string       `json:"serves,omitempty"`
	Says     string         `json:"says,omitempty"`
	Unsays   string         `json:"unsays,omitempty"`
	Everyone bool           `json:"everyone,omitempty"`
	Shown    bool           `json:"shown,omitempty"`
}

// Encode spells a planned change as JSON, so that Decode makes the same of it. Of a call it keeps the name of its
// command, and never what that runs. What only a change that takes another back has (what the place was before and
// after) is not kept.
func Encode(c Change) ([]byte, error) {
	a := c.Note()
	e := encoded{
		In: a.In, Serves: a.Serves, Says: a.Says, Unsays: a.Unsays, Everyone: a.Everyone, Shown: a.Shown,
	}
	switch c := c.(type) {
	case File:
		e.Kind, e.Path, e.Data, e.Merged = "file", c.Path, describedData(c.Data), c.Merged
	case Line:
		e.Kind, e.Path, e.Text, e.From, e.Gone = "line", c.Path, c.Text, c.From, c.Gone
	case Block:
		e.Kind, e.Path, e.Text, e.Begins, e.Ends, e.First = "block", c.Path, c.Text, c.Begins, c.Ends, c.First
	case Setting:
		e.Kind, e.Store, e.Key, e.To, e.Default = "setting", c.Store, c.Key, EncodeValue(c.To), EncodeValue(c.Default)
		e.Label, e.Merging, e.Sole, e.Assumed = c.Label, c.Merged, c.Sole, c.Assumed
	case Member:
		e.Kind, e.Store, e.Key, e.Item, e.Between, e.Gone = "member", c.Store, c.Key, c.Item, c.Between, c.Gone
	case Call:
		if _, _, err := c.Command.Words(); err != nil {
			return nil, err
		}
		e.Kind, e.Command = "call", &c.Command
	case Hand:
		e.Kind, e.Lines = "by-hand", c.Lines
	}
	return json.Marshal(e)
}

// Decode makes the change that Encode spelled.
func Decode(data []byte) (Change, error) {
	var e encoded
	if err := json.Unmarshal(data, &e); err != nil {
		return nil, err
	}
	about := About{
		In: e.In, Serves: e.Serves, Says: e.Says, Unsays: e.Unsays, Everyone: e.Everyone, Shown: e.Shown,
	}
	var values [3]Value
	for i, d := range []*DescribedItem{e.Data, e.To, e.Default} {
		var err error
		if values[i], err = DecodeValue(d); err != nil {
			return nil, err
		}
	}
	switch e.Kind {
	case "file":
		return File{About: about, Path: e.Path, Data: dataOf(values[0]), Merged: e.Merged}, nil
	case "line":
		return Line{About: about, Path: e.Path, Text: e.Text, From: e.From, Gone: e.Gone}, nil
	case "block":
		return Block{About: about, Path: e.Path, Text: e.Text, Begins: e.Begins, Ends: e.Ends, First: e.First}, nil
	case "setting":
		return Setting{
			About: about, Store: e.Store, Key: e.Key, To: values[1], Default: values[2], Label: e.Label,
			Merged: e.Merging, Sole: e.Sole, Assumed: e.Assumed,
		}, nil
	case "member":
		return Member{
			About: about, Store: e.Store, Key: e.Key, Item: e.Item, Between: e.Between, Gone: e.Gone,
		}, nil
	case "call":
		if e.Command == nil {
			return nil, errors.New("a call names no command")
		}
		return findCall(about, *e.Command)
	case "by-hand":
		return Hand{About: about, Lines: e.Lines}, nil
	}
	return nil, fmt.Errorf("%q is no kind of change", e.Kind)
}

func dataOf(v Value) []byte {
	switch v := v.(type) {
	case Text:
		return []byte(v)
	case Bytes:
		return []byte(v)
	default:
		return nil
	}
}

// EncodeData spells what is in a file, nil for none: as text where it is one.
func EncodeData(data []byte) *DescribedItem { return describedData(data) }

// DecodeData is what EncodeData spelled.
func DecodeData(d *DescribedItem) ([]byte, error) {
	v, err := DecodeValue(d)
	return dataOf(v), err
}

// EncodeValue spells a value of a store, nil for none.
func EncodeValue(v Value) *DescribedItem {
	if text, ok := v.(Text); ok && !utf8.ValidString(string(text)) { // JSON has no other texts
		return &DescribedItem{Type: "text-bytes", Text: base64.StdEncoding.EncodeToString([]byte(text))}
	}
	return describeValue(v)
}

// DecodeValue is what EncodeValue spelled.
func DecodeValue(d *DescribedItem) (Value, error) {
	if d == nil {
		return nil, nil
	}
	switch d.Type {
	case "text":
		return Text(d.Text), nil
	case "texts":
		return append(Texts{}, d.Texts...), nil
	case "raw":
		return Raw(d.Text), nil
	case "int":
		n, err := strconv.Atoi(d.Text)
		return Int(n), err
	case "unsigned":
		n, err := strconv.ParseUint(d.Text, 10, 64)
		return Unsigned(n), err
	case "bool":
		b, err := strconv.ParseBool(d.Text)
		return Bool(b), err
	case "bytes", "text-bytes":
		data, err := base64.StdEncoding.DecodeString(d.Text)
		if d.Type == "bytes" {
			return Bytes(data), err
		}
		return Text(data), err
	}
	return nil, fmt.Errorf("%q is no type of value", d.Type)
}
