// Package reason holds why a rule lands as it does, as values: a code, and what it is about.
// What a reason says stands in one table, here; nobody compares or searches sentences.
package reason

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Kind is where a reason comes from.
type Kind int

// The kinds.
const (
	System    Kind = iota // a fact about a system or a desktop, with its source
	Mapping               // what the mapping, its machine or its layouts say
	Unwritten             // Leitstand's own lack
)

func (k Kind) String() string { return [...]string{"system", "mapping", "unwritten"}[k] }

// Form is one row of the table: all reasons of a code.
type Form struct {
	Code   string // stable, lower-case words with hyphens
	Kind   Kind
	Words  string // with a name in braces for each argument
	Source string // of a fact about a system
	blanks []string
	alone  List // of the reason, where it has no arguments
}

// pressed is the source of what real components have shown.
const pressed = "pressed by this project's tests"

var table []*Form

func add(f Form) *Form {
	for rest := f.Words; ; {
		_, part, more := strings.Cut(rest, "{")
		if !more {
			break
		}
		if name, _, ok := strings.Cut(part, "}"); ok && isName(name) {
			f.blanks = append(f.blanks, name)
		}
		rest = part
	}
	f.alone = List{{Form: &f}}
	table = append(table, &f)
	return &f
}

func system(code, words, source string) *Form {
	return add(Form{Code: code, Kind: System, Words: words, Source: source})
}
func fromMapping(code, words string) *Form { return add(Form{Code: code, Kind: Mapping, Words: words}) }
func unwritten(code, words string) *Form {
	return add(Form{Code: code, Kind: Unwritten, Words: "not written yet: " + words})
}

// All is the whole table, by code.
func All() []*Form {
	list := slices.Clone(table)
	slices.SortFunc(list, func(a, b *Form) int { return strings.Compare(a.Code, b.Code) })
	return list
}

// Blanks are the names of a form's arguments, in order.
func (f *Form) Blanks() []string { return slices.Clone(f.blanks) }

func isName(s string) bool {
	return s != "" && strings.Trim(s, "abcdefghijklmnopqrstuvwxyz") == ""
}

// mostArgs is how many arguments a form has at most.
const mostArgs = 3

// Reason is one, of a form. Two are the same if they are equal.
type Reason struct {
	*Form
	args [mostArgs]string
}

// Of is the reason of a form with its arguments, as a list of one.
func (f *Form) Of(args ...any) List {
	if n := len(f.blanks); n != len(args) {
		panic(fmt.Sprintf("reason %s has %d arguments, not %d", f.Code, n, len(args)))
	}
	if len(args) == 0 {
		return f.alone
	}
	r := Reason{Form: f}
	for i, a := range args {
		if names, ok := a.([]string); ok {
			a = strings.Join(names, ", ")
		}
		r.args[i] = fmt.Sprint(a)
	}
	return List{r}
}

// Args are the reason's arguments by their names; nil for none.
func (r Reason) Args() map[string]string {
	var named map[string]string
	for i, name := range r.blanks {
		if named == nil {
			named = map[string]string{}
		}
		named[name] = r.args[i]
	}
	return named
}

// String is the reason in words.
func (r Reason) String() string {
	words := r.Words
	var s strings.Builder
	for i, name := range r.blanks {
		before, behind, _ := strings.Cut(words, "{"+name+"}")
		arg := r.args[i]
		if strings.HasSuffix(before, `"`) && strings.HasPrefix(behind, `"`) {
			arg = strconv.Quote(arg)
			arg = arg[1 : len(arg)-1]
		}
		s.WriteString(before + arg)
		words = behind
	}
	return s.String() + words
}

// MarshalJSON is the reason as reports have it: its code, what it is about, and its words.
func (r Reason) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct {
		Code string            `json:"code"`
		Kind string            `json:"kind"`
		Args map[string]string `json:"args,omitempty"`
		Text string            `json:"text"`
	}{r.Code, r.Kind.String(), r.Args(), r.String()})
}

// List is reasons, each once.
type List []Reason

// And is a list with those of another behind it that it lacks.
func (l List) And(others ...Reason) List {
	all := slices.Clip(l)
	for _, o := range others {
		if !slices.Contains(all, o) {
			all = append(all, o)
		}
	}
	return all
}

// Has says whether a reason of a form is in the list.
func (l List) Has(f *Form) bool {
	return slices.ContainsFunc(l, func(r Reason) bool { return r.Form == f })
}

// Strings are the reasons in words.
func (l List) Strings() []string {
	list := make([]string, len(l))
	for i, r := range l {
		list[i] = r.String()
	}
	return list
}

// String is the list as one text.
func (l List) String() string { return strings.Join(l.Strings(), "; ") }
