package install

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"leitstand/core/change"
)

// Installer carries plans out on a machine, with a journal.
type Installer struct {
	Machine Machine
	Book    Book
}

// Carry does what a plan says. With terms it is on trial: it is kept in the journal how it is put back, until Keep or
// Revert. What cannot be done is taken back, and the error says why.
func (i Installer) Carry(j *Journal, p *Plan, terms Terms) error {
	if j.Begun != nil || j.Trial != nil {
		return errors.New("something is under way; end it first")
	}
	p.Next.Folders = union(j.Folders, p.Next.Folders)
	if len(p.Steps) > 0 {
		j.Begun = &Begun{Steps: p.Steps, Next: p.Next, Terms: terms}
		if err := j.save(i.Book); err != nil {
			return err
		}
		if err := i.steps(p); err != nil {
			return errors.Join(err, i.Recover(j))
		}
	}
	if err := i.noteKeyFiles(&p.Next); err != nil {
		return errors.Join(err, i.Recover(j))
	}
	was, begun := j.Installed, j.Begun
	j.Installed, j.Begun = p.Next, nil
	if !terms.Until.IsZero() && len(p.Steps) > 0 {
		j.Trial = &Trial{Until: terms.Until, For: terms.For, Login: terms.Login, Steps: p.Steps, Was: was}
	}
	i.tidy(j)
	err := j.save(i.Book)
	if err != nil && begun != nil { // as on a full disk
		j.Installed, j.Begun, j.Trial = was, begun, nil
		err = errors.Join(err, i.Recover(j))
	}
	return err
}

// noteKeyFiles notes what files with keys of ours are after the last change.
func (i Installer) noteKeyFiles(n *Installed) error {
	for k := range n.Files {
		f := &n.Files[k]
		now, err := i.Machine.File(f.Path)
		if err != nil {
			return err
		}
		if f.After != lost {
			f.After = digest(now.Data)
		}
	}
	return nil
}

// steps does the steps of a plan, and reads each place back.
func (i Installer) steps(p *Plan) error {
	for _, s := range p.Steps {
		if s.IsCall() {
			if s.Do == nil {
				continue
			}
			switch err := i.Machine.Call(s.Do); {
			case errors.Is(err, ErrAway) && !s.Everyone:
				p.Untold = append(p.Untold, s)
			case err != nil:
				return fmt.Errorf("%s: %w", s.By, err)
			}
			continue
		}
		for _, w := range s.Writes {
			now, err := i.state(w.Place)
			if err != nil {
				return err
			}
			if !now.Same(w.From) {
				return fmt.Errorf("%s: %w", w.Place, change.ErrChanged)
			}
		}
		if err := i.write(s.Writes, func(w Write) State { return w.To }); err != nil {
			return err
		}
		for _, w := range s.Writes {
			now, err := i.state(w.Place)
			if err != nil {
				return err
			}
			if !now.Same(w.To) && !(isRaw(w.To) && now.Value != nil) {
				return fmt.Errorf("%s did not take what it was given: it has %s, not %s%s", w.Place, now.brief(),
					w.To.brief(), refuses[w.Store])
			}
			p.Next.read(w.Place, now)
		}
	}
	return nil
}

// refuses is why a store may not take what it is given.
var refuses = map[string]string{
	change.Keeper: "; another shortcut may have the chord, which `takes = true` of the rule takes from it",
}

// isRaw says whether a value is of a type that only its store can spell.
func isRaw(s State) bool {
	_, raw := s.Value.(change.Raw)
	return raw
}

// read notes what a place has after it was written, as its store spells it.
func (n *Installed) read(at Place, now State) {
	for k := range n.Held {
		if n.Held[k].Place == at {
			n.Held[k].After = now
		}
	}
}

func (i Installer) state(p Place) (s State, err error) {
	if p.Path != "" {
		s.File, err = i.Machine.File(p.Path)
	} else {
		s.Value, err = i.Machine.Get(p.Store, p.Key)
	}
	return s, err
}

// fileOf is the file that a place is, or is in; "" for a key that a program keeps.
func (i Installer) fileOf(at Place) string {
	if at.Path != "" {
		return at.Path
	}
	return i.Machine.KeptIn(at.Store, at.Key)
}

// write writes places of one step.
func (i Installer) write(list []Write, to func(Write) State) error {
	if len(list) == 0 {
		return nil
	}
	if list[0].Path != "" {
		for _, w := range list {
			if err := i.Machine.Put(w.Path, to(w).File); err != nil {
				return fmt.Errorf("%s: %w", w.Place, err)
			}
		}
		return nil
	}
	var entries []Entry
	for _, w := range list {
		entries = append(entries, Entry{w.Key, to(w).Value, w.Label})
	}
	if err := i.Machine.Set(list[0].Store, entries); err != nil {
		return fmt.Errorf("%s: %w", list[0].Store, err)
	}
	return nil
}

// Recover takes back what was begun and is not done, if anything is. What somebody has changed meanwhile is left, and
// the error names it.
func (i Installer) Recover(j *Journal) error {
	if j.Begun == nil {
		return nil
	}
	left, err := i.back(j.Begun.Steps)
	if err != nil {
		return err
	}
	folders := j.Begun.Next.Folders
	j.Begun = nil
	j.Folders = union(j.Folders, folders)
	i.tidy(j)
	return errors.Join(left, j.save(i.Book))
}

// Revert ends a trial: what it had changed is as it was before. What somebody has changed meanwhile is left, and the
// error names it.
func (i Installer) Revert(j *Journal) error {
	if j.Trial == nil {
		return nil
	}
	// Until it is done it is something that was begun: a kill leaves that to the next command.
	j.Begun = &Begun{Steps: j.Trial.Steps, Next: j.Installed}
	j.Installed, j.Trial = j.Trial.Was, nil
	if err := j.save(i.Book); err != nil {
		return err
	}
	return i.Recover(j)
}

// back takes steps back, as far as they were done, the last first. Left names what somebody has changed.
func (i Installer) back(steps []Step) (left, err error) {
	var told []Step
	touched := false
	for _, s := range slices.Backward(steps) {
		if s.IsCall() {
			if s.Undo != nil && s.InTurn {
				_ = i.Machine.Call(s.Undo) // it may not have been done
			} else if s.Undo != nil {
				told = append(told, s)
			}
			continue
		}
		var again []Write
		for _, w := range s.Writes {
			now, err := i.state(w.Place)
			if file := i.fileOf(w.Place); err == nil && file != "" {
				err = i.Machine.Sweep(file)
			}
			switch {
			case err != nil:
				return left, err
			case now.Same(w.From):
			case now.Same(w.To) || between(now, w):
				again = append(again, w)
			default:
				left = errors.Join(left, fmt.Errorf("%s is left as it is: %w", w.Place, change.ErrChanged))
			}
		}
		touched = touched || len(again) > 0
		if err := i.write(again, func(w Write) State { return w.From }); err != nil {
			return left, err
		}
	}
	slices.Reverse(told)
	for _, s := range told {
		if touched {
			_ = i.Machine.Call(s.Undo) // a program that does not run need not be told
		}
	}
	return left, nil
}

// between says whether a place is as a writing that broke off may leave it: a file with more than one name is written
// in place, from its beginning, and a keeper of shortcuts gives chords up before it gives them to others.
func between(now State, w Write) bool {
	if w.Store == change.Keeper {
		list, ok := now.Value.(change.Texts)
		return ok && len(list) == 0
	}
	data, from, to := string(now.File.Data), string(w.From.File.Data), string(w.To.File.Data)
	if now.File.Data == nil || w.From.File.Data == nil || w.To.File.Data == nil {
		return false
	}
	n := 0
	for n < min(len(data), len(to)) && data[n] == to[n] {
		n++
	}
	return n > 0 && data == to[:n]+from[min(n, len(from)):]
}

// tidy removes the folders that were made for places that are not held any more, if they are empty.
func (i Installer) tidy(j *Journal) {
	var kept []string
	for _, f := range slices.Backward(j.Folders) {
		used := slices.ContainsFunc(j.Held, func(h Held) bool {
			return strings.HasPrefix(i.fileOf(h.Place), f+"/")
		})
		if used || i.Machine.RemoveFolder(f) != nil { // the next command tries again
			kept = append(kept, f)
		}
	}
	slices.Reverse(kept)
	j.Folders = kept
}

func union(a, b []string) []string {
	list := slices.Clone(a)
	for _, s := range b {
		if !slices.Contains(list, s) {
			list = append(list, s)
		}
	}
	return list
}
