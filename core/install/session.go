package install

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"
)

// Session is one run that changes a machine, alone.
type Session struct {
	Installer
	Journal *Journal
	// Recovered says that an earlier run had been killed, and what it had begun was taken back; Ended, that a trial
	// was over, and was put back.
	Recovered, Ended bool
	// Pruned says that what waited to be reverted is.
	Pruned bool
	// Left names the places that were not reverted, and why: somebody has changed them, or they cannot be written now,
	// which the next run tries again. It is nil where there are none.
	Left error
	End  func()
}

// Begin waits until no other run is at work, reads the journal, and takes back what was begun and is not done, and a
// trial that is over at a time.
func Begin(i Installer, now time.Time, lock func() (unlock func(), err error)) (*Session, error) {
	unlock, err := lock()
	if err != nil {
		return nil, err
	}
	s := &Session{Installer: i, End: unlock}
	if s.Journal, err = Open(i.Book); err == nil {
		told, untold := i.tell(s.Journal)
		var left error
		switch j := s.Journal; {
		case j.Begun != nil:
			s.Recovered = true
			left, err = i.Recover(j)
		case j.Trial != nil && j.Trial.Over(now):
			s.Ended = true
			left, err = i.Revert(j)
		case len(j.Folders) > 0 && len(j.Held) == 0 && j.Trial == nil: // that could not be removed
			i.tidy(j)
			err = j.save(i.Book)
		case told:
			err = j.save(i.Book)
		}
		s.Left = errors.Join(untold, left)
		s.Pruned = told
	}
	if err == nil {
		var pruned bool
		pruned, err = i.prune(s.Journal)
		s.Pruned = s.Pruned || pruned
	}
	if err != nil {
		unlock()
		return nil, err
	}
	return s, nil
}

// prune forgets what waited to be reverted and is: an administrator has done it, or it can be written by now.
func (i Installer) prune(j *Journal) (pruned bool, err error) {
	gone, tried := map[Place]bool{}, false
	for _, h := range slices.Clone(j.Held) {
		if !h.Leaving {
			continue
		}
		now, err := i.state(h.Place)
		if err == nil && now.Same(h.After) && !now.Same(h.Before) && !j.everyone(h.Place) {
			tried = true
			if i.retry(j, h, now) {
				now = h.Before
			}
		}
		gone[h.Place] = err == nil && i.restored(h, now)
	}
	if !slices.Contains(slices.Collect(maps.Values(gone)), true) {
		if tried {
			err = j.save(i.Book)
		}
		return false, err
	}
	j.Held = slices.DeleteFunc(j.Held, func(h Held) bool { return h.Leaving && gone[h.Place] })
	j.Items = slices.DeleteFunc(j.Items, func(i Item) bool {
		at, ok := placeOf(i.Change)
		return ok && gone[at]
	})
	if len(j.Held) == 0 {
		j.Items, j.Files = nil, nil
	}
	i.tidy(j)
	return true, j.save(i.Book)
}

// retry writes what a place had before, and reports whether it could. It is in the journal as begun: if it is killed, the
// next command knows what may be left beside the file. A journal that cannot be written, as on a full disk, keeps nothing
// from being reverted.
func (i Installer) retry(j *Journal, h Held, now State) bool {
	w := Write{Place: h.Place, Label: h.Label, From: now, To: h.Before}
	j.Begun = &Begun{Steps: []Step{{Writes: []Write{w}}}, Next: j.Installed, Mark: newMark()}
	i.Machine.Mark(j.Begun.Mark)
	_ = j.save(i.Book) // see above
	failed, _ := i.write([]writing{{w, now, h.Before}})
	j.Begun = nil
	return failed == nil
}

// everyone reports whether a place is an administrator's to write.
func (j *Journal) everyone(at Place) bool {
	return slices.ContainsFunc(j.Items, func(i Item) bool {
		of, ok := placeOf(i.Change)
		return ok && of == at && i.Change.Note().Everyone
	})
}

// ErrTrial is for what cannot be done during a trial.
var ErrTrial = errors.New("what was installed last is on trial")

// Plan plans what makes the machine have what is wanted. A machine of another name is not mixed with the one that is
// installed.
func (s *Session) Plan(want Wanted) (*Plan, error) {
	if s.Journal.Trial != nil {
		until := "until after the next log-in"
		if at := s.Journal.Trial.Until; !at.IsZero() {
			until = "until " + at.Format(time.TimeOnly)
		}
		return nil, fmt.Errorf("%w %s: `leitstand keep` keeps it, and `leitstand keep --not` puts it back", ErrTrial, until)
	}
	return Make(s.Machine, s.Journal.Installed, want)
}

// Drifted is the plan that would bring back what is installed: what it writes is what has drifted.
func (s *Session) Drifted() (*Plan, error) {
	return Make(s.Machine, s.Journal.Installed, Wanted{Installed: s.Journal.again()})
}

// again is what is installed, to be wanted anew: without what only waits to be taken back.
func (j *Journal) again() Installed {
	next := j.Installed
	next.Items = slices.DeleteFunc(slices.Clone(j.Items), func(i Item) bool {
		at, ok := placeOf(i.Change)
		return ok && slices.ContainsFunc(j.Held, func(h Held) bool { return h.Leaving && h.Place == at })
	})
	next.Held, next.Files, next.Folders = nil, nil, nil
	return next
}

// Differs says whether what is installed differs from items.
func (j *Journal) Differs(items []Item) bool {
	was, err := json.Marshal(Mapped(j.again().Items))
	is, other := json.Marshal(items)
	return err != nil || other != nil || !bytes.Equal(was, is)
}

// AwaitEnd waits until a trial that ends at a time is over, and says whether it is to be put back: it is not when it
// was kept, or ended, before, or never began. It goes by the time that passes, whatever becomes of the clock.
// A wait may be ended early, as by the end of all that runs, and the trial with it.
func AwaitEnd(b Book, until time.Time, now func() time.Time, wait func(time.Duration) (ended bool)) bool {
	const often, begins = 200 * time.Millisecond, 10 * time.Second
	began := now()
	for seen, long := false, until.Sub(began); ; {
		passed := now().Sub(began)
		if passed >= long {
			return true
		}
		if j, err := Open(b); err == nil { // another run may be writing it
			under := j.Trial != nil && j.Trial.Until.Equal(until) || j.Begun != nil && j.Begun.Terms.Until.Equal(until)
			if !under && (seen || passed > begins) {
				return false
			}
			seen = seen || under
		}
		if wait(min(long-passed, often)) {
			return true
		}
	}
}
