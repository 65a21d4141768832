package change

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"reflect"
	"slices"
	"strings"
)

// Store is a machine's files and settings, and its running programs. Paths that begin with ~
// are in the user's home.
type Store interface {
	// ReadFile fails with fs.ErrNotExist where there is none.
	ReadFile(path string) ([]byte, error)
	WriteFile(path string, data []byte) error
	RemoveFile(path string) error
	// Get is nil for a key without a value.
	Get(store, key string) (Value, error)
	// Set with nil leaves the key without a value.
	Set(store, key string, v Value) error
	Call(words []string) error
}

// ErrChanged is for what is not as it was when the change was planned.
var ErrChanged = errors.New("somebody has changed it since")

// Carry makes changes, one after the other. It returns those that take them back, the last
// first, and behind them the words to running programs. When one cannot be made, those before
// it are taken back, and the error says which.
func Carry(changes []Change, s Store) (undo []Change, err error) {
	var done, told []Change // who was told of the changes must be told when they are taken back
	for _, c := range changes {
		back, err := carry(c, s)
		if err != nil {
			err = fmt.Errorf("%s: %w", place(c), err)
			slices.Reverse(done)
			if _, fault := Carry(append(done, told...), s); fault != nil {
				err = errors.Join(err, fmt.Errorf("and what was done before is not taken back: %w", fault))
			}
			return nil, err
		}
		switch call, isCall := back.(Call); {
		case back == nil:
		case isCall && !call.InTurn:
			told = append(told, back)
		default:
			done = append(done, back)
		}
	}
	slices.Reverse(done)
	return append(done, told...), nil
}

// place says where a change is made.
func place(c Change) string {
	switch c := c.(type) {
	case File:
		return c.Path
	case Line:
		return c.Path
	case Block:
		return c.Path
	case Setting:
		return c.Key
	case Member:
		return c.Key
	case Call:
		return strings.Join(append(slices.Clone(c.Do), c.Undo...), " ")
	case Hand:
		return c.Says + strings.Join(c.Lines, "\n")
	}
	panic(fmt.Sprintf("%T is no change", c))
}

// carry makes one change and returns what takes it back, nil if nothing needs to be.
func carry(c Change, s Store) (Change, error) {
	switch c := c.(type) {
	case File:
		return carryFile(c, s)
	case Line:
		return carryLine(c, s)
	case Block:
		return carryBlock(c, s)
	case Setting:
		return carrySetting(c, s)
	case Member:
		return carryMember(c, s)
	case Call:
		return carryCall(c, s)
	case Hand: // a person's to do
		return nil, nil
	}
	panic(fmt.Sprintf("%T is no change", c))
}

// read is a file's bytes, nil where there is none.
func read(path string, s Store) ([]byte, error) {
	data, err := s.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if data == nil && err == nil {
		data = []byte{}
	}
	return data, err
}

func write(path string, data []byte, s Store) error {
	if data == nil {
		return s.RemoveFile(path)
	}
	return s.WriteFile(path, data)
}

func carryFile(c File, s Store) (Change, error) {
	before, err := read(c.Path, s)
	if err != nil || equal(before, c.Data) {
		return nil, err
	}
	return File{About: c.About, Path: c.Path, Data: before}, write(c.Path, c.Data, s)
}

func carryLine(c Line, s Store) (Change, error) {
	before, err := read(c.Path, s)
	if err != nil {
		return nil, err
	}
	after := c.Before
	if c.After == nil && c.Before == nil || !equal(before, c.After) {
		if after, err = c.merged(before, s); err != nil {
			return nil, err
		}
	}
	if equal(before, after) {
		return nil, nil
	}
	back := Line{About: c.About, Path: c.Path, Text: c.Text, From: c.From, Gone: !c.Gone, After: after, Before: before}
	return back, write(c.Path, after, s)
}

// equal says whether two files are, of which nil is none.
func equal(a, b []byte) bool { return bytes.Equal(a, b) && (a == nil) == (b == nil) }

// merged is what a file has with the line, or without it.
func (c Line) merged(before []byte, s Store) (after []byte, err error) {
	lines := strings.SplitAfter(string(before), "\n")
	at := slices.IndexFunc(lines, func(l string) bool { return l != "" && strings.TrimSuffix(l, "\n") == c.Text })
	switch {
	case c.Gone == (at < 0):
		return before, nil
	case c.Gone:
		return []byte(strings.Join(slices.Delete(lines, at, at+1), "")), nil
	case before == nil && c.From != "":
		if before, err = read(c.From, s); err != nil {
			return nil, err
		}
	}
	end := ""
	if len(before) > 0 && before[len(before)-1] != '\n' {
		end = "\n"
	}
	return []byte(string(before) + end + c.Text + "\n"), nil
}

func carryCall(c Call, s Store) (Change, error) {
	if c.Do != nil {
		if err := s.Call(c.Do); err != nil {
			return nil, err
		}
	}
	if c.Undo == nil {
		return nil, nil
	}
	return Call{About: c.About, Command: c.Command, Do: c.Undo, Undo: c.Do, InTurn: c.InTurn}, nil
}

func carryBlock(c Block, s Store) (Change, error) {
	before, err := read(c.Path, s)
	if err != nil {
		return nil, err
	}
	after := c.Before
	if c.After == nil && c.Before == nil || !equal(before, c.After) {
		after = c.merged(before)
	}
	if equal(before, after) {
		return nil, nil
	}
	_, had, _ := c.find(before)
	back := Block{About: c.About, Path: c.Path, Begins: c.Begins, Ends: c.Ends, Text: had, After: after, Before: before}
	return back, write(c.Path, after, s)
}

// merged is what a file has with the block.
func (c Block) merged(before []byte) []byte {
	head, _, tail := c.find(before)
	switch {
	case c.Text == "" && before == nil:
		return nil
	case before == nil:
		head = c.First
	case c.Text != "" && head != "" && !strings.HasSuffix(head, "\n"):
		head += "\n"
	}
	return []byte(head + c.Text + tail)
}

// find parts a file into what stands before the block, the block, and what stands behind it; all
// before it where there is none.
func (c Block) find(data []byte) (head, block, tail string) {
	text := string(data)
	begins, ends := -1, -1
	at := 0
	for line := range strings.Lines(text) {
		if begins < 0 && strings.HasPrefix(line, c.Begins) {
			begins = at
		}
		at += len(line)
		if begins >= 0 && strings.HasPrefix(line, c.Ends) {
			ends = at
			break
		}
	}
	if ends < 0 {
		return text, "", ""
	}
	return text[:begins], text[begins:ends], text[ends:]
}

// Same reports whether two values are equal; none is nil.
func Same(a, b Value) bool { return reflect.DeepEqual(a, b) }

func carrySetting(c Setting, s Store) (Change, error) {
	if c.Assumed {
		return nil, nil
	}
	before, err := s.Get(c.Store, c.Key)
	if err == nil && c.Merged == Chords {
		c.To = withOwn(before, c.To, c.Default)
	} else if err == nil {
		c.To = c.Merged.with(before, c.To)
	}
	switch {
	case err != nil:
		return nil, err
	case Same(before, c.To):
		return nil, nil
	case c.Held && !Same(before, c.Expects):
		return nil, ErrChanged
	}
	return Setting{
		About:   c.About,
		Store:   c.Store,
		Key:     c.Key,
		To:      before,
		Expects: c.To,
		Held:    true,
	}, s.Set(c.Store, c.Key, c.To)
}

// withOwn is a list of chords with those of a user's own: what the list has beside ours, and does not have by itself.
func withOwn(had, to, stock Value) Value {
	list, ok := to.(Texts)
	was, listed := had.(Texts)
	if !ok || !listed {
		return to
	}
	by, _ := stock.(Texts)
	list = slices.Clone(list)
	for _, chord := range was {
		if !slices.Contains(by, chord) && !slices.Contains(list, chord) {
			list = append(list, chord)
		}
	}
	return list
}

func carryMember(c Member, s Store) (Change, error) {
	before, err := s.Get(c.Store, c.Key)
	if err != nil {
		return nil, err
	}
	after := c.Before
	if c.After == nil && c.Before == nil || !Same(before, c.After) {
		list, err := c.items(before)
		switch {
		case err != nil:
			return nil, err
		case slices.Contains(list, c.Item) != c.Gone:
			return nil, nil
		case c.Gone:
			list = append(Texts{}, slices.DeleteFunc(slices.Clone(list), func(i string) bool { return i == c.Item })...)
		default:
			list = append(append(Texts{}, list...), c.Item)
		}
		if after = list; c.Between != "" {
			after = Text(strings.Join(list, c.Between))
		}
	}
	back := Member{
		About:   c.About,
		Store:   c.Store,
		Key:     c.Key,
		Item:    c.Item,
		Between: c.Between,
		Gone:    !c.Gone,
		After:   after,
		Before:  before,
	}
	return back, s.Set(c.Store, c.Key, after)
}

// items are those of a list in a store.
func (c Member) items(v Value) (Texts, error) {
	switch v := v.(type) {
	case nil:
		return nil, nil
	case Texts:
		if c.Between == "" {
			return v, nil
		}
	case Text:
		if c.Between != "" {
			return slices.DeleteFunc(strings.Split(string(v), c.Between), func(i string) bool { return i == "" }), nil
		}
	default: // any other is no list
	}
	return nil, fmt.Errorf("%#v is no list", v)
}

// Gone are the changes that one list has, and another has nothing in their place: what is to be
// taken back when the second list takes the place of the first.
func Gone(was, is []Change) []Change {
	has := map[string]bool{}
	for _, c := range is {
		has[identity(c)] = true
	}
	return slices.DeleteFunc(slices.Clone(was), func(c Change) bool { return has[identity(c)] })
}

// identity is what a change is made to.
func identity(c Change) string {
	more := ""
	switch c := c.(type) {
	case Line:
		more = c.Text
	case Setting:
		more = c.Store
	case Member:
		more = c.Store + "\x00" + c.Item
	default: // the place says all
	}
	return fmt.Sprintf("%T\x00%s\x00%s", c, place(c), more)
}
