// Package imports makes a mapping of native files: of folders that compile wrote, and of
// files that somebody or some program wrote. What the language has no word for is not
// taken over, and is told.
package imports

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"path"
	"slices"
	"strings"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
)

// Path is a file or folder to read: Name below FS, which the user calls Shown.
type Path struct {
	FS          fs.FS
	Name, Shown string
}

// Source is a machine, and what files say of its keyboard.
type Source struct {
	Machine  *intent.Machine
	Bindings []behaviour.Binding
}

// Gathered is what was read.
type Gathered struct {
	Sources []Source
	Files   []string // as the user calls them
	Left    []mechanism.Left
}

// largest is more than any file that we read has.
const largest = 4 << 20

// errNone says that a folder has no file that any mechanism reads.
var errNone = errors.New("it holds none of the files that we read")

// errForeign says that a file is none that any mechanism reads.
var errForeign = errors.New("it is none of the files that we read")

// Files reads files and folders. A file that does not say what machine it is for is for
// one like here, as far as its kind allows, with the layouts that its user names; without
// any, with those that the files set, or here's. The error says what cannot be read at all.
func Files(paths []Path, here *machine.Machine, named []string) (Gathered, error) {
	if len(named) > 0 {
		own := *here
		own.Layouts, own.Options = named, nil
		here = &own
	}
	if err := layouts(here.Layouts); err != nil {
		return Gathered{}, err
	}
	if !mapping.IsName(here.Name) {
		return Gathered{}, fmt.Errorf(
			"%q cannot be a machine's name: use letters, digits, hyphens and underscores", here.Name,
		)
	}
	g := &gatherer{here: here, named: len(named) > 0}
	for _, p := range paths {
		if err := g.path(p); err != nil {
			return Gathered{}, fmt.Errorf("%s: %w", p.Shown, err)
		}
	}
	if err := g.foreign(); err != nil {
		return Gathered{}, err
	}
	return g.Gathered, nil
}

// layouts says what is wrong with a machine's layouts, which may come from the command line.
func layouts(names []string) error {
	for i, name := range names {
		if _, ok := keys.FindLayout(name); !ok {
			if n := diag.Nearest(name, keys.LayoutNames()); n != "" {
				return fmt.Errorf("there is no layout %q; did you mean %q?", name, n)
			}
			return fmt.Errorf("there is no layout %q; name one that XKB has", name)
		}
		if slices.Contains(names[:i], name) {
			return fmt.Errorf("layout %q stands twice; name it once", name)
		}
	}
	if len(names) > 4 {
		return errors.New("XKB holds at most four layouts at once; leave some out")
	}
	return nil
}

type gatherer struct {
	Gathered
	here    *machine.Machine
	named   bool // the user has named the layouts
	strange []strange
}

// strange is a file that says nothing of its machine.
type strange struct {
	by    registry.Importer
	shown string
	text  []byte
}

func (g *gatherer) path(p Path) error {
	info, err := fs.Stat(p.FS, p.Name)
	if err != nil {
		return err
	}
	if !info.IsDir() {
		return g.file(p)
	}
	root, err := fs.Sub(p.FS, p.Name)
	if err != nil {
		return err
	}
	machines := compile.Folders(root)
	if _, err := fs.Stat(root, compile.DescriptionFile); err == nil {
		machines = []string{"."}
	}
	for _, name := range machines {
		sub, err := fs.Sub(root, name)
		if err != nil {
			return err
		}
		if err := g.compiled(sub, path.Join(p.Shown, name)); err != nil {
			return err
		}
	}
	if len(machines) > 0 {
		return nil
	}
	before := len(g.strange)
	err = fs.WalkDir(root, ".", func(name string, e fs.DirEntry, err error) error {
		if errors.Is(err, fs.ErrPermission) && name != "." {
			return fs.SkipDir // somebody else's, in a folder that is looked through
		} else if err != nil || !e.Type().IsRegular() {
			return err
		}
		if err := g.file(Path{root, name, path.Join(p.Shown, name)}); !errors.Is(err, errForeign) &&
			!errors.Is(err, fs.ErrPermission) {
			return err
		}
		return nil
	})
	if err == nil && len(g.strange) == before {
		err = errNone
	}
	return err
}

// compiled reads a machine's folder that compile wrote.
func (g *gatherer) compiled(fsys fs.FS, shown string) error {
	m, got, err := compile.ReadFolder(fsys)
	if err != nil {
		return err
	}
	if err := g.fresh(m); err != nil {
		return err
	}
	g.Files = append(g.Files, shown)
	g.add(m, shown, withLayerKeys(m, got.Bindings))
	for _, press := range compile.ByHand(fsys) {
		g.Left = append(
			g.Left,
			mechanism.Left{File: shown, Text: press, Why: "done by hand, as STEPS.md says, so that no file holds it"},
		)
	}
	return nil
}

// withLayerKeys has the keys that hold layers by what the system does anyhow, so that no file has them.
func withLayerKeys(m *intent.Machine, list []behaviour.Binding) []behaviour.Binding {
	for _, on := range m.LayerKeys {
		b := behaviour.Binding{
			Chord:  keys.Chord{Key: on.Key},
			Effect: behaviour.Effect{Kind: behaviour.Layers, Layer: on.Layer, How: on.How},
		}
		if !slices.ContainsFunc(list, func(o behaviour.Binding) bool { return o.Place() == b.Place() }) {
			list = append(list, b)
		}
	}
	return list
}

// fresh refuses a second machine of one name.
func (g *gatherer) fresh(m *intent.Machine) error {
	if slices.ContainsFunc(g.Sources, func(s Source) bool { return s.Machine.Name == m.Name }) {
		return fmt.Errorf("machine %q is given twice; take it over by itself, or under another name", m.Name)
	}
	return nil
}

func (g *gatherer) file(p Path) error {
	info, err := fs.Stat(p.FS, p.Name)
	if err != nil {
		return err
	}
	if info.Size() > largest {
		return errForeign
	}
	text, err := fs.ReadFile(p.FS, p.Name)
	if err != nil {
		return err
	}
	if nested(text) {
		return fmt.Errorf("it is nested more than %d deep", deepest)
	}
	known := false
	for _, by := range registry.Importers() {
		if !by.Knows(p.Shown, text) {
			continue
		}
		g.strange, known = append(g.strange, strange{by, p.Shown, text}), true
		if !strings.EqualFold(path.Ext(p.Shown), ".reg") {
			return nil
		}
	}
	if !known { // a file of the registry may hold what several read
		return errForeign
	}
	return nil
}

// deepest is how many levels of nesting a file may have. The readers are recursive.
const deepest = 5000

// nested reports whether a text has lists in lists, or elements in elements, deeper than is read. It takes no notice of
// what is quoted, so that no reader goes deeper than it has counted.
func nested(text []byte) bool {
	depth, open := 0, 0
	for i, c := range text {
		next := byte(0)
		if i+1 < len(text) {
			next = text[i+1]
		}
		switch {
		case c == '{' || c == '[' || c == '(':
			depth++
		case (c == '}' || c == ']' || c == ')') && depth > 0:
			depth--
		case c == '<' && next == '/' && open > 0, c == '/' && next == '>' && open > 0:
			open--
		case c == '<' && (next >= 'a' && next <= 'z' || next >= 'A' && next <= 'Z'):
			open++
		}
		if max(depth, open) > deepest {
			return true
		}
	}
	return false
}

// foreign reads the files that say nothing of their machine: those of one desktop
// belong together, and what is no desktop's belongs to each of the system's.
func (g *gatherer) foreign() error {
	var kinds []machine.Machine
	for _, f := range g.strange {
		k := f.by.For()
		if !slices.ContainsFunc(kinds, func(o machine.Machine) bool { return serves(k, o) }) {
			kinds = slices.DeleteFunc(kinds, func(o machine.Machine) bool { return serves(o, k) })
			kinds = append(kinds, k)
		}
	}
	var given mechanism.Folder
	for _, f := range g.strange {
		given = append(given, mechanism.File{Path: path.Base(f.shown), Data: f.text})
		if whole := strings.TrimLeft(path.Clean(f.shown), "./"); whole != path.Base(f.shown) && fs.ValidPath(whole) {
			given = append(given, mechanism.File{Path: whole, Data: f.text})
		}
	}
	for _, k := range kinds {
		in := g.machine(k, len(kinds) > 1)
		if err := g.fresh(in); err != nil {
			return err
		}
		all := &said{by: map[behaviour.Place]behaviour.Binding{}}
		for _, f := range g.strange {
			if !serves(f.by.For(), k) {
				continue
			}
			got, err := f.by.Import(in, f.text, given)
			if err != nil {
				return fmt.Errorf("%s: %w", f.shown, err)
			}
			g.one(in, f.shown, got, all)
		}
		g.add(in, "", all.list)
	}
	return nil
}

// said is what files of one machine have said so far.
type said struct {
	list []behaviour.Binding
	by   map[behaviour.Place]behaviour.Binding // but what only keeps something
}

// one takes over what one file says of a machine.
func (g *gatherer) one(in *intent.Machine, shown string, got mechanism.Imported, all *said) {
	if !slices.Contains(g.Files, shown) {
		g.Files = append(g.Files, shown)
	}
	slices.SortStableFunc(got.Left, func(a, b mechanism.Left) int { return cmp.Compare(a.Line, b.Line) })
	if n := len(got.Passed); n > 0 {
		names := got.Passed
		if n > 7 {
			names = append(slices.Clone(names[:6]), fmt.Sprintf("%d more", n-6))
		}
		got.Leave(0, strings.Join(names, ", "), "not about keys")
	}
	for _, l := range got.Left {
		l.File = shown
		g.Left = append(g.Left, l)
	}
	leave := func(text, why string) {
		g.Left = append(g.Left, mechanism.Left{File: shown, Text: text, Why: why})
	}
	boards, beyond := map[string]bool{"": true}, 0
	for _, name := range in.Machine.Boards {
		boards[name] = true
	}
	for _, b := range got.Boards {
		switch {
		case boards[b.Name]:
		case len(in.Boards) == machine.Most:
			beyond++
		default:
			boards[b.Name] = true
			in.Boards = append(in.Boards, b)
			in.Machine.Boards = append(in.Machine.Boards, b.Name)
		}
	}
	if beyond > 0 {
		leave(fmt.Sprintf("%d keyboards", beyond), fmt.Sprintf("a mapping has at most %d", machine.Most))
	}
	for _, b := range got.Bindings {
		before, twice := all.by[b.Place()]
		switch {
		case !boards[b.Board]: // one of those that a mapping has no room for
		case b.Effect.Kind == behaviour.Other:
			leave(b.Press(), b.Effect.String())
		case b.Kept || !twice:
			all.list = append(all.list, b)
			if !b.Kept {
				all.by[b.Place()] = b
			}
		case !before.Effect.Equal(b.Effect):
			leave(b.String(), "another file says that it "+before.Effect.String())
		}
	}
}

// serves says whether a kind of file is for a machine: what names no desktop is for any.
func serves(k, m machine.Machine) bool {
	return k.System == m.System && (k.Session == m.Session) && (k.Desktop == "" || k.Desktop == m.Desktop)
}

// machine is one like here, as far as a kind of file allows.
func (g *gatherer) machine(k machine.Machine, several bool) *intent.Machine {
	m := &machine.Machine{
		Name:    g.here.Name,
		System:  k.System,
		Desktop: k.Desktop,
		Session: k.Session,
		Layouts: g.here.Layouts,
		Admin:   g.here.Admin,
	}
	if m.System == machine.Linux && m.Desktop == "" {
		m.Desktop = "none"
		if g.here.System == machine.Linux && k.Session == "" {
			m.Desktop = g.here.Desktop
		}
	}
	if g.here.System == machine.Linux && m.System == machine.Linux && m.Session == "" {
		m.Options = g.here.Options
		if m.Desktop == g.here.Desktop && g.here.Session != "console" {
			m.Session = g.here.Session
		}
	}
	g.layoutsOf(k, m)
	if several {
		if m.Name = k.Desktop; m.Name == "" {
			m.Name = strings.TrimSuffix(string(k.System)+"-"+k.Session, "-")
		}
	}
	return intent.NewMachine(&mapping.Mapping{}, m)
}

// layoutsOf gives a machine the layouts and options that files of its kind set.
func (g *gatherer) layoutsOf(k machine.Machine, m *machine.Machine) {
	if g.named {
		return
	}
	for _, f := range g.strange {
		by, ok := f.by.(interface {
			Layouts(text []byte) (layouts, options []string)
		})
		if !ok || !serves(f.by.For(), k) {
			continue
		}
		names, options := by.Layouts(f.text)
		if len(names) == 0 {
			continue
		}
		if err := layouts(names); err != nil {
			g.Left = append(g.Left, mechanism.Left{File: f.shown, Text: strings.Join(names, ", "), Why: err.Error()})
			continue
		}
		m.Layouts, m.Options = names, nil
		for _, name := range options {
			if name == "" {
				continue
			}
			if !mapping.Fits(m, name) {
				g.Left = append(
					g.Left,
					mechanism.Left{
						File: f.shown,
						Text: name,
						Why:  "what this option does with these layouts is not known",
					},
				)
				continue
			}
			m.Options = append(m.Options, name)
		}
	}
}

// add notes what a machine's files say, without what only keeps what the desktop does
// anyhow.
func (g *gatherer) add(m *intent.Machine, shown string, list []behaviour.Binding) {
	s := Source{Machine: m}
	if !slices.ContainsFunc(m.Boards, isWide) { // else what one repeats may be narrower than what another says
		list = behaviour.Plain(list)
	} else {
		list = withoutIdle(m, list)
	}
	behaviour.Sort(list)
	for i, b := range list {
		switch {
		case b.Kept && again(list, i):
		case b.Effect.Kind == behaviour.Other:
			g.Left = append(g.Left, mechanism.Left{File: shown, Text: b.Press(), Why: b.Effect.String()})
		default:
			s.Bindings = append(s.Bindings, b)
		}
	}
	g.Sources = append(g.Sources, s)
}

// withoutIdle leaves out what a board that stands for any external one does by itself, and says only because every
// board says the same.
func withoutIdle(m *intent.Machine, list []behaviour.Binding) []behaviour.Binding {
	idle := func(b behaviour.Binding) bool {
		return b.Level == behaviour.Position && b.Layer == "" && b.Effect.Kind == behaviour.Becomes && b.Effect.Key == b.Chord.Key
	}
	every := map[keys.Key]bool{}
	for _, b := range list {
		every[b.Chord.Key] = every[b.Chord.Key] || b.Board == "" && idle(b)
	}
	return slices.DeleteFunc(slices.Clone(list), func(b behaviour.Binding) bool {
		return idle(b) && every[b.Chord.Key] &&
			slices.ContainsFunc(m.Boards, func(o *machine.Board) bool { return o.Name == b.Board && isWide(o) })
	})
}

// isWide says whether a board stands for any external one.
func isWide(b *machine.Board) bool {
	return slices.Contains(b.IDs, machine.BoardID{Bus: machine.AnyExternal})
}

// again says whether a binding that is kept says nothing new: that the desktop does what
// it does anyhow, or that another key, which the desktop cannot tell from this one and which
// is had before it, does the same.
func again(list []behaviour.Binding, i int) bool {
	b := &list[i]
	return b.Alike == keys.None || slices.ContainsFunc(list, func(o behaviour.Binding) bool {
		return o.Alike == b.Alike && o.Level == b.Level && o.Chord.Mods&^keys.Shift == b.Chord.Mods&^keys.Shift &&
			o.Layer == b.Layer && len(o.Then) == len(b.Then) && o.Effect.Equal(b.Effect) && moreUsual(&o, b)
	})
}

// moreUsual says whether of two presses that a desktop cannot tell apart the first is by a key that more boards have,
// as a rule: one with a lower number in the HID usage tables.
func moreUsual(a, b *behaviour.Binding) bool {
	usage := func(k keys.Key) int {
		if n, ok := k.HID(); ok {
			return n
		}
		return math.MaxInt
	}
	for i := range 1 + len(a.Then) {
		x, y := a.Chord, b.Chord
		if i > 0 {
			x, y = a.Then[i-1], b.Then[i-1]
		}
		if x.Key != y.Key {
			return usage(x.Key) < usage(y.Key)
		}
	}
	return a.Chord.Mods < b.Chord.Mods
}
