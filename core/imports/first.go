package imports

import (
	"errors"
	"io/fs"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/intent"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
)

// First gathers a first mapping for the machine at hand: what it is, its boards, and what those of the files that are
// there say of its keyboard. Every rule is the machine's, whatever other desktop its file may be for.
func First(paths []Path, here *machine.Machine, boards []*machine.Board) (Gathered, error) {
	there := slices.DeleteFunc(slices.Clone(paths), func(p Path) bool {
		info, err := fs.Stat(p.FS, p.Name)
		return err != nil || info.IsDir() && !speaks(p)
	})
	var g Gathered
	in := intent.NewMachine(&mapping.Mapping{}, here)
	var all []Source
	for _, p := range there {
		got, err := Files([]Path{p}, here, here.Layouts)
		if err != nil {
			g.Left = append(g.Left, mechanism.Left{File: p.Shown, Text: "the file", Why: err.Error()})
			continue
		}
		g.Files, g.Left = append(g.Files, got.Files...), append(g.Left, got.Left...)
		all = append(all, got.Sources...)
	}
	for _, b := range boards {
		in.Boards, in.Machine.Boards = append(in.Boards, b), append(in.Machine.Boards, b.Name)
	}
	s := Source{Machine: in}
	for _, o := range all {
		for _, b := range o.Bindings { // two files that say the same, or of which the first counts
			if !slices.ContainsFunc(s.Bindings, func(k behaviour.Binding) bool { return k.Place() == b.Place() }) {
				s.Bindings = append(s.Bindings, b)
			}
		}
		for _, b := range o.Machine.Boards { // that a file singles out
			if !slices.ContainsFunc(in.Boards, func(k *machine.Board) bool { return k.Name == b.Name }) {
				in.Boards, in.Machine.Boards = append(in.Boards, b), append(in.Machine.Boards, b.Name)
			}
		}
	}
	g.Sources = []Source{s}
	return g, g.dropUndone()
}

// dropUndone leaves out what would not work on the machine, with the reason.
func (g *Gathered) dropUndone() error {
	text, _, err := g.Text()
	if err != nil {
		return err
	}
	const name = "first.hcl"
	mp, diags, err := mapping.Load(append(mechanism.Folder(g.Libraries()), mechanism.File{Path: name, Data: text}), name, name)
	if err != nil || diags.HasErrors() { // which is told when it is read
		return err
	}
	builds, _, err := compile.All(mp, nil, nil)
	if err != nil {
		return err
	}
	for _, l := range builds[0].Landings {
		if l.Verdict() > mechanism.NeedsAgent {
			continue
		}
		s := &g.Sources[0]
		s.Bindings = slices.DeleteFunc(s.Bindings, func(b behaviour.Binding) bool { return b.Press() == l.Binding.Press() })
		g.Left = append(g.Left, mechanism.Left{Text: l.Binding.String(), Why: l.Why().String()})
	}
	return nil
}

// speaks says whether a folder has a file that is read.
func speaks(p Path) bool {
	_, err := Files([]Path{p}, &machine.Machine{
		Name: "here", System: machine.Linux, Desktop: machine.None, Layouts: []string{"us"}, Admin: true,
	}, nil)
	return !errors.Is(err, errNone)
}
