package change

import (
	"encoding/base64"
	"fmt"
	"strings"
	"unicode/utf8"
)

// Described is a change as programs read it.
type Described struct {
	Kind  string         `json:"kind"`            // file, line, block, setting, member, call or by-hand
	Path  string         `json:"path,omitempty"`  // of a file on the machine; ~ is the user's home
	Store string         `json:"store,omitempty"` // that holds a value
	Key   string         `json:"key,omitempty"`   // in the store
	Value *DescribedItem `json:"value,omitempty"` // what is set, put in or written; none where something is taken away
	// Default is what the key is when nobody has set it, where that is known.
	Default  *DescribedItem `json:"default,omitempty"`
	Do       []string       `json:"do,omitempty"`       // the words of a call
	Undo     []string       `json:"undo,omitempty"`     // and of the one that takes it back
	Lines    []string       `json:"lines,omitempty"`    // what a person enters
	Compiled string         `json:"compiled,omitempty"` // the file of the compiled folder that has it
	Serves   []string       `json:"serves"`             // presses
	Everyone bool           `json:"everyone"`           // for all users, and an administrator's to do
	Says     string         `json:"says"`
	Unsays   string         `json:"unsays,omitempty"` // how it is taken back
}

// DescribedItem is a typed value.
type DescribedItem struct {
	Type  string   `json:"type"` // text, texts, int, unsigned, bool, bytes (in base64) or raw
	Text  string   `json:"text,omitempty"`
	Texts []string `json:"texts,omitempty"`
}

// Describe describes a change for programs.
func Describe(c Change) Described {
	about := c.Note()
	d := Described{
		Compiled: about.In,
		Serves:   about.Serves,
		Everyone: about.Everyone,
		Says:     about.Says,
		Unsays:   about.Unsays,
	}
	if about.Shown {
		d.Compiled = ""
	}
	if d.Serves == nil {
		d.Serves = []string{}
	}
	switch c := c.(type) {
	case File:
		d.Kind, d.Path, d.Value = "file", c.Path, describedData(c.Data)
	case Line:
		d.Kind, d.Path, d.Value, d.Compiled = "line", c.Path, describeValue(Text(c.Text)), ""
	case Block:
		d.Kind, d.Path, d.Value = "block", c.Path, describeValue(Text(c.Text))
	case Setting:
		d.Kind, d.Store, d.Key, d.Value, d.Default = "setting", c.Store, c.Key, describeValue(c.To), describeValue(c.Default)
	case Member:
		d.Kind, d.Store, d.Key, d.Value = "member", c.Store, c.Key, describeValue(Text(c.Item))
	case Call:
		d.Kind, d.Do, d.Undo = "call", c.Do, c.Undo
	case Hand:
		d.Kind, d.Lines = "by-hand", c.Lines
	}
	return d
}

func describedData(data []byte) *DescribedItem {
	switch {
	case data == nil:
		return nil
	case utf8.Valid(data) && !strings.ContainsRune(string(data), 0):
		return &DescribedItem{Type: "text", Text: string(data)}
	}
	return describeValue(Bytes(data))
}

func describeValue(v Value) *DescribedItem {
	switch v := v.(type) {
	case nil:
		return nil
	case Text:
		return &DescribedItem{Type: "text", Text: string(v)}
	case Texts:
		return &DescribedItem{Type: "texts", Texts: v}
	case Int:
		return &DescribedItem{Type: "int", Text: fmt.Sprint(int(v))}
	case Unsigned:
		return &DescribedItem{Type: "unsigned", Text: fmt.Sprint(uint(v))}
	case Bool:
		return &DescribedItem{Type: "bool", Text: fmt.Sprint(bool(v))}
	case Bytes:
		return &DescribedItem{Type: "bytes", Text: base64.StdEncoding.EncodeToString([]byte(v))}
	case Raw:
		return &DescribedItem{Type: "raw", Text: string(v)}
	}
	panic(fmt.Sprintf("%T is no value", v))
}

// Brief is a change in a line of words: where, and what.
func Brief(c Change) (where, what string) {
	d := Describe(c)
	value := ""
	if d.Value != nil {
		value = d.Value.brief()
	}
	switch c := c.(type) {
	case File:
		return d.Path, "a file of ours"
	case Line:
		return d.Path, "the line " + value
	case Block:
		return d.Path, "our part of a file of others"
	case Setting:
		switch {
		case c.To == nil:
			value = "nothing"
		case c.Assumed:
			value += ", as it is on every machine"
		}
		// Titles of menus begin with a character that is not seen.
		return d.Store + " " + strings.ReplaceAll(d.Key, "\x1b", "›"), "is " + value
	case Member:
		return d.Store + " " + d.Key, "has " + value + " beside others"
	case Call:
		if c.Do == nil {
			return "told when it is taken back", onALine(c.Undo)
		}
		return "told", onALine(c.Do)
	default:
		return "by hand", d.Says
	}
}

func (d DescribedItem) brief() string {
	switch d.Type {
	case "texts":
		return "[" + strings.Join(d.Texts, ", ") + "]"
	case "bytes":
		return fmt.Sprintf("%d bytes", base64.StdEncoding.DecodedLen(len(d.Text))-strings.Count(d.Text, "="))
	}
	return d.Text
}

// onALine is a call as one line: where a text in it has several, their ends are marked.
func onALine(words []string) string {
	return strings.ReplaceAll(strings.Join(spoken("", words), ""), "\n", "↵")
}
