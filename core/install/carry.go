package install

import (
	"bytes"
	"crypto/rand"
	"encoding/hex"
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

// Carry does what a plan says. With terms it is on trial: it is kept in the journal how it is reverted, until Keep or
// Revert. What cannot be done is reverted, and the error says why.
func (i Installer) Carry(j *Journal, p *Plan, terms Terms) error {
	if j.Begun != nil || j.Trial != nil {
		return errors.New("something is under way; end it first")
	}
	p.Next.Folders = union(j.Folders, p.Next.Folders)
	if len(p.Steps) > 0 {
		j.Begun = &Begun{Steps: p.Steps, Next: p.Next, Terms: terms, Mark: newMark()}
		i.Machine.Mark(j.Begun.Mark)
		err := j.check() // a journal that is refused later would keep all this from being reverted
		if err == nil {
			err = j.save(i.Book)
		}
		if err != nil {
			j.Begun = nil
			return err
		}
		if err := i.steps(j, p); err != nil {
			return errors.Join(err, i.recoverAll(j))
		}
	}
	p.Next.leave(p.stuck, j.Items)
	if err := i.noteKeyFiles(&p.Next); err != nil {
		return errors.Join(err, i.recoverAll(j))
	}
	was, begun := j.Installed, j.Begun
	j.Installed, j.Begun = p.Next, nil
	if !terms.Until.IsZero() && len(p.Steps) > 0 {
		j.Trial = &Trial{
			Until: terms.Until, For: terms.For, Login: terms.Login, Steps: p.Steps, Was: was, Mark: begun.Mark,
		}
	}
	i.tidy(j)
	err := j.save(i.Book)
	if err != nil && begun != nil { // as on a full disk
		j.Installed, j.Begun, j.Trial = was, begun, nil
		err = errors.Join(err, i.recoverAll(j))
	}
	return err
}

// newMark is a name that no file has.
func newMark() string {
	var random [8]byte
	_, _ = rand.Read(random[:]) // which never fails
	return hex.EncodeToString(random[:])
}

// recoverAll is Recover, of which all errors are one.
func (i Installer) recoverAll(j *Journal) error {
	left, err := i.Recover(j)
	return errors.Join(left, err)
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
func (i Installer) steps(j *Journal, p *Plan) error {
	for _, s := range p.Steps {
		if s.IsCall() {
			if s.Do == nil {
				continue
			}
			switch err := i.Machine.Call(s.Do); {
			case errors.Is(err, ErrAway) && !s.Everyone:
				p.Untold = append(p.Untold, s)
			case err != nil && s.Inverse && s.Command.Keeps():
				p.Left = errors.Join(p.Left, j.wait(s, err))
			case err != nil:
				return fmt.Errorf("%s: %w", s.By, err)
			}
			continue
		}
		failed, err := i.step(p, s)
		if err != nil && !p.Reverts {
			return err
		}
		p.stuck, p.Left = append(p.stuck, failed...), errors.Join(p.Left, err)
	}
	return nil
}

// step writes the places of a step, each if it still is as it was planned for, and reads them back. It returns those
// that do not have what they are to have.
func (i Installer) step(p *Plan, s Step) (failed []Write, fault error) {
	fails := func(w Write, err error) {
		failed, fault = append(failed, w), errors.Join(fault, err)
	}
	var list []writing
	for _, w := range s.Writes {
		switch now, err := i.state(w.Place); {
		case err != nil:
			fails(w, fmt.Errorf("%s: %w", w.Place, err))
		case !now.Same(w.From):
			fails(w, fmt.Errorf("%s: %w", w.Place, change.ErrChanged))
		default:
			list = append(list, writing{w, now, w.To})
		}
	}
	if failed != nil && !p.Reverts {
		return failed, fault
	}
	unwritten, err := i.write(list)
	failed, fault = append(failed, unwritten...), errors.Join(fault, err)
	for _, is := range list {
		w := is.Write
		if slices.ContainsFunc(unwritten, func(o Write) bool { return o.Place == w.Place }) {
			continue
		}
		switch now, err := i.state(w.Place); {
		case err != nil:
			fails(w, fmt.Errorf("%s: %w", w.Place, err))
		case !now.Same(w.To) && !(isRaw(w.To) && now.Value != nil):
			fails(w, fmt.Errorf("%s did not take what it was given: it has %s, not %s%s", w.Place, now.brief(),
				w.To.brief(), refuses[w.Store]))
		default:
			p.Next.read(w.Place, now)
		}
	}
	return failed, fault
}

// leave keeps places known that could not be reverted, until they can be.
func (n *Installed) leave(stuck []Write, items []Item) {
	for _, w := range stuck {
		n.Held = append(n.Held, Held{Place: w.Place, Label: w.Label, Before: w.To, After: w.From, Leaving: true})
		for _, item := range items {
			if at, ok := placeOf(item.Change); ok && at == w.Place {
				n.Items = append(n.Items, item)
			}
		}
	}
}

// refuses is why a store may not take what it is given.
var refuses = map[string]string{
	change.Keeper: "; another shortcut may have the chord, which `override = true` of the rule takes from it",
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

// writing is a place to be written, what it has, and what it is to have.
type writing struct {
	Write
	was, is State
}

// write writes places of one step: files one by one, and the keys of a store in one go. It returns those that cannot be
// written, and why.
func (i Installer) write(list []writing) (failed []Write, err error) {
	if len(list) == 0 {
		return nil, nil
	}
	if list[0].Path != "" {
		for _, w := range list {
			if fault := i.Machine.Put(w.Path, w.was.File, w.is.File); fault != nil {
				failed, err = append(failed, w.Write), errors.Join(err, fmt.Errorf("%s: %w", w.Place, fault))
			}
		}
		return failed, err
	}
	var entries []Entry
	for _, w := range list {
		entries, failed = append(entries, Entry{w.Key, w.is.Value, w.Label}), append(failed, w.Write)
	}
	if err := i.Machine.Set(list[0].Store, entries); err != nil {
		return failed, fmt.Errorf("%s: %w", list[0].Store, err)
	}
	return nil, nil
}

// Recover reverts what was begun and is not done, if anything is. What cannot be reverted now stays known, so that it is
// tried again; left names it, and what somebody has changed meanwhile. The error is one of the journal.
func (i Installer) Recover(j *Journal) (left, err error) {
	if j.Begun == nil {
		return nil, nil
	}
	stuck, left := i.back(j)
	begun := j.Begun
	j.Begun = nil
	j.hold(stuck, begun.Next)
	j.Folders = union(j.Folders, begun.Next.Folders)
	i.tidy(j)
	return left, j.save(i.Book)
}

// hold keeps places known that could not be reverted: those of what is installed may have what they had before that,
// and all others wait until they can be.
func (j *Journal) hold(stuck []Write, next Installed) {
	for _, w := range stuck {
		at := slices.IndexFunc(j.Held, func(h Held) bool { return h.Place == w.Place })
		if at >= 0 {
			j.Held[at].Former = &w.To
			continue
		}
		j.Held = append(j.Held, Held{Place: w.Place, Label: w.Label, Before: w.From, After: w.To, Leaving: true})
		for _, item := range next.Items {
			if of, ok := placeOf(item.Change); ok && of == w.Place {
				j.Items = append(j.Items, item)
			}
		}
	}
}

// Revert ends a trial: what it had changed is as it was before. What it returns is as of Recover.
func (i Installer) Revert(j *Journal) (left, err error) {
	if j.Trial == nil {
		return nil, nil
	}
	// Until it is done it is something that was begun: a kill leaves that to the next command. Where that cannot be
	// written, as on a full disk, the trial is still in the journal, and its end reverts it.
	trial := j.Trial
	j.Begun = &Begun{Steps: trial.Steps, Next: j.Installed, Mark: trial.Mark}
	j.Installed, j.Trial = trial.Was, nil
	i.Machine.Mark(trial.Mark)
	_ = j.save(i.Book)
	return i.Recover(j)
}

// back reverts the steps that were begun, as far as they were done, the last first. It returns the places that could not
// be reverted; left says why, and what somebody has changed meanwhile.
func (i Installer) back(j *Journal) (stuck []Write, left error) {
	i.Machine.Mark(j.Begun.Mark)
	var told []Step
	touched := false
	for _, s := range slices.Backward(j.Begun.Steps) {
		if s.IsCall() {
			if s.Undo != nil && s.InTurn {
				left = errors.Join(left, i.tellBack(j, s)) // it may not have been done
			} else if s.Undo != nil {
				told = append(told, s)
			}
			continue
		}
		var again []writing
		for _, w := range s.Writes {
			is, differs, err := i.reverted(j, w)
			switch {
			case errors.Is(err, change.ErrChanged):
				left = errors.Join(left, fmt.Errorf("%s is left as it is: %w", w.Place, err))
			case err != nil:
				stuck, left = append(stuck, w), errors.Join(left, fmt.Errorf("%s: %w", w.Place, err))
			case differs:
				again = append(again, is)
			}
		}
		failed, err := i.write(again)
		touched = touched || len(again) > len(failed)
		stuck, left = append(stuck, failed...), errors.Join(left, err)
	}
	slices.Reverse(told)
	for _, s := range told {
		if touched {
			left = errors.Join(left, i.tellBack(j, s))
		}
	}
	return stuck, left
}

// tellBack runs the command that undoes another. A failure counts only if the program stays changed; the command then waits
// to be run again.
func (i Installer) tellBack(j *Journal, s Step) error {
	err := i.Machine.Call(s.Undo)
	if err == nil || !s.Command.Keeps() || s.Inverse {
		return nil
	}
	s.Inverse, s.Do, s.Undo = true, s.Undo, s.Do
	return j.wait(s, err)
}

// wait notes an undo command that failed, for the next run to repeat. The returned error says so.
func (j *Journal) wait(s Step, err error) error {
	j.Untold = append(j.Untold, s)
	return fmt.Errorf("%s: a running program could not be changed back (%w); the next command tries again", s.By, err)
}

// tell runs the undo commands that failed before.
func (i Installer) tell(j *Journal) (told bool, left error) {
	waiting := j.Untold
	j.Untold = nil
	for _, s := range waiting {
		if err := i.Machine.Call(s.Do); err != nil {
			left = errors.Join(left, j.wait(s, err))
		}
	}
	return len(j.Untold) < len(waiting), left
}

// reverted is what a place is to have when what was begun is reverted, and whether that differs from what it has. Where
// somebody has changed it meanwhile, ours is taken out of it, and theirs stays.
func (i Installer) reverted(j *Journal, w Write) (is writing, differs bool, err error) {
	if file := i.fileOf(w.Place); file != "" {
		if err := i.Machine.Sweep(file); err != nil {
			return is, false, err
		}
	}
	now, err := i.state(w.Place)
	switch {
	case err != nil, now.Same(w.From):
		return is, false, err
	case now.Same(w.To) || between(now, w):
		return writing{w, now, w.From}, true, nil
	}
	then, err := i.merged(j, w.Place)
	return writing{w, now, then}, !now.Same(then), err
}

// merged is what a place has without what was begun to be installed, and with what was installed before. It is
// change.ErrChanged where that cannot be told from what somebody else has there.
func (i Installer) merged(j *Journal, at Place) (State, error) {
	on := func(items, but []Item) (list []change.Change) {
		for _, item := range items {
			if of, ok := placeOf(item.Change); ok && of == at && !slices.ContainsFunc(but, item.same) {
				list = append(list, item.Change)
			}
		}
		return list
	}
	var list []change.Change
	for _, c := range slices.Backward(on(j.Begun.Next.Items, j.Items)) {
		c, ok := inverse(c)
		if !ok {
			return State{}, change.ErrChanged
		}
		list = append(list, c)
	}
	for _, c := range on(j.Items, j.Begun.Next.Items) {
		if _, ok := inverse(c); !ok {
			return State{}, change.ErrChanged
		}
		list = append(list, c)
	}
	o := newOverlay(i.Machine)
	if _, err := change.Carry(list, o); err != nil {
		return State{}, err
	}
	return o.then(at)
}

// same reports whether two items make the same change.
func (i Item) same(o Item) bool {
	a, err := change.Encode(i.Change)
	b, fault := change.Encode(o.Change)
	return err == nil && fault == nil && bytes.Equal(a, b)
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
