package compile

import (
	"fmt"
	"io/fs"
	"slices"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/registry"
)

// Gone is what a machine's folder had, and the mapping wants no longer.
type Gone struct {
	Machine, Press, Did string
}

// since compares a build with the folder that it is to replace: the page of steps begins with
// what is wanted no longer and how it is taken out, since copying new files leaves it alive.
// A folder that cannot be read as one of ours says nothing.
func (b *Build) since(fsys fs.FS) []Gone {
	b.gone, b.undo = nil, nil
	m, _, err := ReadFolder(fsys)
	if err != nil {
		return nil
	}
	now := mechanism.Folder(b.Files())
	for _, t := range registry.Serving(m) {
		r, ok := t.(registry.Reader)
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
		for _, c := range behaviour.Compare(was, is) {
			for _, w := range was {
				if c.After == nil && w.Place() == c.Place && !w.Kept {
					b.gone = append(b.gone, Gone{b.Machine.Name, c.Press, w.Effect.String()})
					break
				}
			}
		}
		// What is kept was the machine's own all the time.
		taken, left := mechanism.Taking(t, m, slices.DeleteFunc(was, func(w behaviour.Binding) bool { return w.Kept }))
		out, err := t.Write(m, taken)
		if err != nil {
			continue
		}
		_, back := change.Steps(change.Gone(out.Changes, b.Changes()))
		for _, l := range left {
			if !slices.ContainsFunc(b.gone, func(g Gone) bool { return g.Press == l.Press() }) {
				continue
			}
			back = append(
				back,
				mechanism.Step{
					Text: fmt.Sprintf(
						"Take out by hand what %s did: %s. How it got there is not known.", l.Press(), l.Effect,
					),
				},
			)
		}
		if back != nil {
			b.undo = append(b.undo, undone{t.Facts(), back})
		}
	}
	return b.gone
}
