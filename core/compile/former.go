package compile

import (
	"io/fs"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/target"
)

// Gone is what a machine's folder had, and the mapping wants no longer.
type Gone struct {
	Press, Did string
}

// apart is a mechanism whose bindings stay set when others are written, each by itself.
type apart interface{ Apart() bool }

// Since compares a build with the folder that it is to replace: the page of steps begins with
// what is wanted no longer and how it is taken out, since copying new files leaves it alive.
// A folder that cannot be read as one of ours says nothing.
func (b *Build) Since(fsys fs.FS) []Gone {
	b.gone, b.undo = nil, nil
	m, _, err := ReadFolder(fsys)
	if err != nil {
		return nil
	}
	now := target.Folder(b.Files)
	for _, t := range serving(m) {
		r, ok := t.(Reader)
		if !ok {
			continue
		}
		was, err := r.Read(m, fsys)
		if err != nil || len(was) == 0 {
			continue
		}
		is, err := r.Read(b.Machine, now)
		if err != nil {
			continue
		}
		var gone []behaviour.Binding
		for _, c := range behaviour.Compare(was, is) {
			for _, w := range was {
				if c.After == nil && w.Place() == c.Place && !w.Kept {
					gone = append(gone, w)
					b.gone = append(b.gone, Gone{c.Press, w.Effect.String()})
					break
				}
			}
		}
		if i := slices.IndexFunc(b.parts, func(p part) bool { return p.facts.Name == t.Facts().Name && p.out.Changes != nil }); i >= 0 {
			if back := back(t, m, was, b.parts[i].out.Changes); back != nil {
				b.undo = append(b.undo, part{t.Facts(), target.Output{Back: back}})
			}
			continue
		}
		_, each := t.(apart)
		if len(gone) == 0 || !each && len(is) > 0 { // else the new file takes the old one's place
			continue
		}
		if out, err := t.Write(m, gone); err == nil && len(out.Back) > 0 {
			b.undo = append(b.undo, part{t.Facts(), target.Output{Back: out.Back}})
		}
	}
	return b.gone
}

// back is what takes back those changes of former bindings that others do not make again.
func back(t Target, m *target.Machine, was []behaviour.Binding, is []change.Change) []target.Step {
	out, err := t.Write(m, slices.DeleteFunc(was, func(w behaviour.Binding) bool { return w.Kept }))
	if err != nil {
		return nil
	}
	_, steps := change.Steps(change.Gone(out.Changes, is))
	return steps
}
