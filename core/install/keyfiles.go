package install

import (
	"leitstand/core/change"
	"slices"

	"leitstand/core/folder"
)

// keyFiles notes the files that have keys of ours. One that has none any more, and that nobody else has changed since,
// gets just the bytes that it had.
func (p *planner) keyFiles() error {
	for _, h := range p.plan.Next.Held {
		if err := p.noteKeyFile(h.Place); err != nil {
			return err
		}
	}
	var steps []Step
	whole := map[string]bool{} // files that get their bytes
	for _, s := range p.plan.Steps {
		if s.IsCall() || s.Writes[0].Path != "" {
			steps = append(steps, s)
			continue
		}
		keys := s
		keys.Writes = nil
		for _, w := range s.Writes {
			file, before, ok := p.former(w.Place)
			if !ok {
				keys.Writes = append(keys.Writes, w)
				continue
			}
			if !whole[file] {
				whole[file] = true
				at := Place{Path: file}
				steps = append(steps, Step{By: s.By, Everyone: s.Everyone, Writes: []Write{
					{Place: at, From: p.over.is[at], To: before, Rules: w.Rules},
				}})
			}
		}
		if keys.Writes != nil {
			steps = append(steps, keys)
		}
	}
	p.plan.Steps = steps
	return p.timesOfKeyFiles(whole)
}

// timesOfKeyFiles gives files whose keys have what they had already the time that they had, too.
func (p *planner) timesOfKeyFiles(whole map[string]bool) error {
	for _, i := range p.was.Items {
		at, ok := placeOf(i.Change)
		if !ok || at.Path != "" {
			continue
		}
		file, before, ok := p.former(at)
		if !ok || whole[file] {
			continue
		}
		whole[file] = true
		now, err := p.over.now(Place{Path: file})
		if err != nil {
			return err
		}
		if now.Same(before) && !now.File.Time.Equal(before.File.Time) {
			p.plan.Steps = append(p.plan.Steps, Step{By: i.By, Everyone: i.Change.Note().Everyone, Writes: []Write{
				{Place: Place{Path: file}, From: now, To: before, Rules: i.Rules},
			}})
		}
	}
	return nil
}

// former is what the file of a key was before keys of ours, if it has none any more and nobody else has changed it.
func (p *planner) former(at Place) (file string, before State, ok bool) {
	file = p.m.KeptIn(at.Store, at.Key)
	if file == "" || p.want.Later && at.Store == change.Keeper ||
		slices.ContainsFunc(p.plan.Next.Files, func(f KeyFile) bool { return f.Path == file }) {
		return file, State{}, false
	}
	for _, f := range p.was.Files {
		now, err := p.over.now(Place{Path: file})
		if f.Path == file && err == nil && digest(now.File.Data) == f.After {
			return file, f.Before, true
		}
	}
	return file, State{}, false
}

// noteKeyFile notes what a file is before it has keys of ours. One that others have changed since has lost that.
func (p *planner) noteKeyFile(at Place) error {
	if at.Path != "" {
		return nil
	}
	file := p.m.KeptIn(at.Store, at.Key)
	if file == "" || slices.ContainsFunc(p.plan.Next.Files, func(f KeyFile) bool { return f.Path == file }) {
		return nil
	}
	now, err := p.over.now(Place{Path: file})
	if err != nil {
		return err
	}
	next := KeyFile{Path: file, Before: now}
	had := slices.ContainsFunc(p.was.Held, func(h Held) bool {
		return h.Path == "" && p.m.KeptIn(h.Store, h.Key) == file
	})
	if i := slices.IndexFunc(p.was.Files, func(f KeyFile) bool { return f.Path == file }); i >= 0 {
		next = p.was.Files[i]
		if digest(now.File.Data) != next.After {
			next.After = lost
		}
	} else if had {
		next.After = lost
	}
	p.plan.Next.Files = append(p.plan.Next.Files, next)
	return nil
}

// lost is the digest of no file.
const lost = "changed by others"

// digest is that of a file, "" for none.
func digest(data []byte) string {
	if data == nil {
		return ""
	}
	return folder.Digest(data)
}
