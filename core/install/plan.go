package install

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/change"
)

// Step is a thing to be done: places to be written in one go, or a call.
type Step struct {
	By       string // the mechanism
	Says     string // what a person is told who does it
	Everyone bool   // an administrator's to do
	Writes   []Write
	// A step without writes is a call: Command names it. Inverse: it is what reverts that command.
	Command change.Command
	Inverse bool
	// Do and Undo are what the command runs, and what reverts it. They are never kept.
	Do, Undo []string `json:"-"`
	// InTurn: the call is reverted in its turn, before what was written before it.
	InTurn bool
}

// UnmarshalJSON reads a step, and finds in the program's own table what its command runs.
func (s *Step) UnmarshalJSON(data []byte) error {
	type step Step
	if err := json.Unmarshal(data, (*step)(s)); err != nil || s.Writes != nil {
		return err
	}
	do, undo, err := s.Command.Words()
	if s.Do, s.Undo = do, undo; s.Inverse {
		s.Do, s.Undo = undo, do
	}
	return err
}

// IsCall says whether the step tells a program something, or only its way back does.
func (s Step) IsCall() bool { return s.Writes == nil }

// Write is what a place has, and what it is to have.
type Write struct {
	Place
	Label    string // what its store calls it
	From, To State
	Folders  []string // those that are made for it
	Rules    []string // those that want it, or wanted it
}

// Drift is a place that somebody has changed since.
type Drift struct {
	Place
	Before, After, Now State
	Rules              []string
	// Left: it stays as it is, since it is not ours any more.
	Left bool
	// Merged: what is ours is changed or taken out of it, and what is not ours stays.
	Merged bool
}

// Plan is what is to be done to a machine.
type Plan struct {
	Steps []Step
	Drift []Drift
	// After is the machine as it is then, to be read.
	After change.Store
	Hands []Item // what a person has to do
	Next  Installed
	// Reverts: nothing is installed by it. What cannot be written then keeps nothing else from being reverted: it
	// stays known, and Left says why.
	Reverts bool
	Left    error
	stuck   []Write
	// Untold are the calls to programs of a session that is not there; they see what is new when it begins.
	Untold []Step
}

// Wanted is what is to be installed.
type Wanted struct {
	Installed      // with nothing held yet
	Force     bool // also what somebody has changed since becomes what it was before
	// Narrow: what somebody has changed since stays, where the same is wanted as before.
	Narrow bool
	// Later: it is done at another time, when a program may have written its own file anew.
	Later bool
}

// planner makes a plan.
type planner struct {
	m       Machine
	was     Installed
	want    Wanted
	over    *overlay
	plan    *Plan
	by      map[Place][]string // the mechanisms that touch a place, those that did and those that will
	rules   map[Place][]string
	written map[Place]bool
	merged  map[Place]bool  // others have changed more than ours there
	changed map[string]bool // mechanisms with a place that is written
	stays   map[Place]Held  // what somebody has changed, and nobody wants otherwise than before
}

// Make plans what makes a machine have what is wanted, and no longer what it was given before. It reads the machine
// and changes nothing.
func Make(m Machine, was Installed, want Wanted) (*Plan, error) {
	p := &planner{
		m: m, was: was, want: want, over: newOverlay(m), plan: &Plan{Next: want.Installed},
		by: map[Place][]string{}, rules: map[Place][]string{}, written: map[Place]bool{},
		merged: map[Place]bool{}, changed: map[string]bool{}, stays: map[Place]Held{},
	}
	p.plan.After = p.over
	var err error
	if p.want.Items, err = p.withRecords(want.Items); err != nil {
		return nil, err
	}
	p.plan.Next.Items = p.want.Items
	p.was.Items, p.want.Items = p.inFiles(was.Items), p.inFiles(p.want.Items)
	p.know(p.was.Items)
	p.know(p.want.Items)
	if err := p.takeBack(); err != nil {
		return nil, err
	}
	if err := p.clear(); err != nil {
		return nil, err
	}
	if err := p.carry(); err != nil {
		return nil, err
	}
	if err := p.order(); err != nil {
		return nil, err
	}
	p.plan.Reverts = len(want.Items) == 0
	return p.plan, nil
}

// inFiles are items of which nothing is assumed that is kept in a file: there it is what makes the file mean the same.
func (p *planner) inFiles(items []Item) (list []Item) {
	for _, i := range items {
		if s, ok := i.Change.(change.Setting); ok && s.Assumed && p.m.KeptIn(s.Store, s.Key) != "" {
			s.Assumed = false
			i.Change = s
		}
		list = append(list, i)
	}
	return list
}

// know notes who touches which place.
func (p *planner) know(items []Item) {
	for _, i := range items {
		if at, ok := placeOf(i.Change); ok {
			if !slices.Contains(p.by[at], i.By) {
				p.by[at] = append(p.by[at], i.By)
			}
			for _, r := range i.Rules {
				if !slices.Contains(p.rules[at], r) {
					p.rules[at] = append(p.rules[at], r)
				}
			}
		}
	}
}

// takeBack has, in memory, the machine as it was before all changes of ours.
func (p *planner) takeBack() error {
	for _, h := range p.was.Held {
		now, err := p.over.now(h.Place)
		if err != nil && len(p.want.Items) == 0 { // nothing else waits for it
			p.unreadable(h, err)
			continue
		}
		if err != nil {
			return fmt.Errorf("%s: %w", h.Place, err)
		}
		if isRecord(h.Path) {
			if err := p.takeBackRecord(h.Path, now); err != nil {
				return err
			}
			continue
		}
		if p.shared(h.Place) {
			known, err := p.takeBackShared(h, now)
			if err != nil {
				return err
			}
			if known {
				continue
			}
		}
		if now.Same(h.After) || now.Same(h.Before) || h.Former != nil && now.Same(*h.Former) {
			p.over.to[h.Place] = h.Before
			continue
		}
		if p.want.Narrow && !p.want.Force && p.unchanged(h.Place) {
			p.stays[h.Place] = h
			p.plan.Drift = append(p.plan.Drift, Drift{
				Place: h.Place, Before: h.Before, After: h.After, Now: now, Rules: p.rules[h.Place], Left: true,
			})
			continue
		}
		merged, err := p.takeOut(h.Place)
		if err != nil {
			return err
		}
		d := Drift{Place: h.Place, Before: h.Before, After: h.After, Now: now, Rules: p.rules[h.Place]}
		switch {
		case merged: // ours is taken out of it, and what others have changed stays
			p.merged[h.Place], d.Merged = true, true
		case p.wants(h.Place) || p.want.Force:
			p.over.to[h.Place] = h.Before
		default: // it stays known, so that it can be put back later
			d.Left = true
			p.plan.stuck = append(p.plan.stuck, Write{Place: h.Place, Label: h.Label, From: h.After, To: h.Before})
		}
		p.plan.Drift = append(p.plan.Drift, d)
	}
	return nil
}

// unreadable leaves a place for a later run.
func (p *planner) unreadable(h Held, err error) {
	p.plan.Left = errors.Join(p.plan.Left, fmt.Errorf("%s: %w", h.Place, err))
	p.plan.stuck = append(p.plan.stuck, Write{Place: h.Place, Label: h.Label, From: h.After, To: h.Before})
	p.was.Items = slices.DeleteFunc(slices.Clone(p.was.Items), func(i Item) bool {
		at, ok := placeOf(i.Change)
		return ok && at == h.Place
	})
	delete(p.by, h.Place)
}

// takeOut takes our changes out of a place that has more than ours.
func (p *planner) takeOut(at Place) (done bool, err error) {
	var out []change.Change
	for _, i := range slices.Backward(p.was.Items) {
		if of, ok := placeOf(i.Change); ok && of == at {
			c, ok := inverse(i.Change)
			if !ok {
				return false, nil
			}
			out = append(out, c)
		}
	}
	_, err = change.Carry(out, p.over)
	return len(out) > 0, err
}

// unchanged reports whether the same is wanted of a place as is installed there.
func (p *planner) unchanged(at Place) bool {
	on := func(items []Item) (list []Item) {
		for _, i := range items {
			if of, ok := placeOf(i.Change); ok && of == at {
				list = append(list, i)
			}
		}
		return list
	}
	return slices.EqualFunc(on(p.was.Items), on(p.want.Items), Item.same)
}

// wants says whether a place is to be changed.
func (p *planner) wants(at Place) bool {
	return slices.ContainsFunc(p.want.Items, func(i Item) bool {
		of, ok := placeOf(i.Change)
		return ok && of == at
	})
}

// carry carries the wanted changes out in memory, and notes what their places had before.
func (p *planner) carry() error {
	held := map[Place]bool{}
	for _, i := range p.want.Items {
		if _, hand := i.Change.(change.Hand); hand {
			p.plan.Hands = append(p.plan.Hands, i)
		}
		at, ok := placeOf(i.Change)
		if h, stays := p.stays[at]; ok && stays {
			if !held[at] {
				held[at] = true
				p.plan.Next.Held = append(p.plan.Next.Held, h)
			}
			continue
		}
		if ok && !held[at] {
			held[at] = true
			before, err := p.over.then(at)
			if err != nil {
				return fmt.Errorf("%s: %w", at, err)
			}
			p.plan.Next.Held = append(p.plan.Next.Held, Held{Place: at, Label: label(i.Change), Before: before})
		}
		if err := p.begins(i.Change); err != nil {
			return err
		}
		if _, err := change.Carry([]change.Change{i.Change}, p.over); err != nil {
			return err
		}
	}
	if err := p.leaveMerged(); err != nil {
		return err
	}
	for n := range p.plan.Next.Held {
		h := &p.plan.Next.Held[n]
		if _, stays := p.stays[h.Place]; stays {
			continue
		}
		var err error
		if h.After, err = p.over.then(h.Place); err != nil {
			return err
		}
	}
	return nil
}

// begins returns an error where a line would be all that a file has: the program that reads it would have nothing else
// from then on, and what it reads where there is no such file would count no more.
func (p *planner) begins(c change.Change) error {
	line, ok := c.(change.Line)
	if !ok || line.From == "" || line.Gone {
		return nil
	}
	for _, path := range []string{line.Path, line.From} {
		switch _, err := p.over.ReadFile(path); {
		case err == nil:
			return nil
		case !errors.Is(err, fs.ErrNotExist):
			return fmt.Errorf("%s: %w", path, err)
		}
	}
	return fmt.Errorf("neither %s nor %s is there, and a configuration that only includes the mapping's would have no "+
		"other bindings: write one first, or have the program write one", line.Path, line.From)
}

// leaveMerged leaves a place of others alone that has what is wanted, wherever it stands in it.
func (p *planner) leaveMerged() error {
	for at := range p.merged {
		alone := newOverlay(p.m)
		for _, i := range p.want.Items {
			if of, ok := placeOf(i.Change); ok && of == at {
				if _, err := change.Carry([]change.Change{i.Change}, alone); err != nil {
					return err
				}
			}
		}
		then, err := alone.then(at)
		if err != nil {
			return err
		}
		if now := p.over.is[at]; p.wants(at) && then.Same(now) {
			p.over.to[at] = now
		}
	}
	return nil
}

// order puts what is to be done into its order: first what goes, the last change first, then what comes. Programs are
// told where a place of the same mechanism is written.
func (p *planner) order() error {
	for at := range p.by {
		write, err := p.needed(at)
		if err != nil {
			return err
		}
		for _, by := range p.by[at] {
			p.changed[by] = p.changed[by] || write
		}
	}
	stays := map[string]bool{} // calls that are wanted still
	for _, i := range p.want.Items {
		if call, ok := i.Change.(change.Call); ok {
			stays[words(i.By, call)] = true
		}
	}
	// Who was told what is wanted no longer is told so when the new files are there, before anything else.
	told := map[string][]Step{}
	for _, i := range slices.Backward(p.was.Items) {
		call, isCall := i.Change.(change.Call)
		if isCall && call.Undo != nil && p.changed[i.By] && !stays[words(i.By, call)] {
			step := Step{
				By: i.By, Says: call.Unsays, Everyone: call.Everyone, Command: call.Command, Inverse: true,
				Do: call.Undo, Undo: call.Do,
			}
			if call.InTurn {
				p.plan.Steps = append(p.plan.Steps, step)
			} else {
				told[i.By] = append([]Step{step}, told[i.By]...)
			}
		}
		if at, ok := placeOf(i.Change); ok && !p.wants(at) {
			if err := p.write(at, i); err != nil {
				return err
			}
		}
	}
	calls := map[string]bool{} // who has calls still
	for _, i := range p.want.Items {
		if _, ok := i.Change.(change.Call); ok {
			calls[i.By] = true
		}
	}
	tell := func(by string) {
		p.plan.Steps = append(p.plan.Steps, told[by]...)
		delete(told, by)
	}
	for _, i := range p.was.Items {
		if !calls[i.By] {
			tell(i.By)
		}
	}
	for _, i := range p.want.Items {
		if call, ok := i.Change.(change.Call); ok && p.changed[i.By] {
			tell(i.By)
			p.plan.Steps = append(p.plan.Steps, Step{
				By: i.By, Says: call.Says, Everyone: call.Everyone, Command: call.Command,
				Do: call.Do, Undo: call.Undo, InTurn: call.InTurn,
			})
		}
		if at, ok := placeOf(i.Change); ok {
			if err := p.write(at, i); err != nil {
				return err
			}
		}
	}
	p.plan.Steps = together(p.plan.Steps)
	p.beside()
	return p.keyFiles()
}

// words are those of a call, with who makes it.
func words(by string, c change.Call) string {
	return by + "\x00" + strings.Join(c.Do, "\x00") + "\x01" + strings.Join(c.Undo, "\x00")
}

// needed says whether a place is to be written.
func (p *planner) needed(at Place) (bool, error) {
	now, err := p.over.now(at)
	if err != nil {
		return false, fmt.Errorf("%s: %w", at, err)
	}
	then, err := p.over.then(at)
	return !now.Same(then), err
}

// write adds the writing of a place, once.
func (p *planner) write(at Place, i Item) error {
	needed, err := p.needed(at)
	if err != nil || !needed || p.written[at] {
		return err
	}
	p.written[at] = true
	w := Write{Place: at, Label: label(i.Change), From: p.over.is[at], To: p.over.to[at], Rules: p.rules[at]}
	file := at.Path
	if file == "" {
		file = p.m.KeptIn(at.Store, at.Key)
	}
	if file != "" && !w.To.Absent() {
		w.Folders = p.m.Missing(file)
		for _, f := range w.Folders {
			if !slices.Contains(p.plan.Next.Folders, f) {
				p.plan.Next.Folders = append(p.plan.Next.Folders, f)
			}
		}
	}
	p.plan.Steps = append(p.plan.Steps, Step{By: i.By, Everyone: i.Change.Note().Everyone, Writes: []Write{w}})
	return nil
}

// together joins steps that follow one another and write keys of one store.
func together(steps []Step) (list []Step) {
	for _, s := range steps {
		if last := len(list) - 1; last >= 0 && !s.IsCall() && !list[last].IsCall() {
			was := &list[last]
			store := s.Writes[0].Store
			if store != "" && store == was.Writes[0].Store && s.Everyone == was.Everyone {
				was.Writes = append(was.Writes, s.Writes...)
				continue
			}
		}
		list = append(list, s)
	}
	return list
}

// beside has what stands between calls of an administrator, such as a wait, done with them.
func (p *planner) beside() {
	steps := p.plan.Steps
	for i := 1; i+1 < len(steps); i++ {
		s := &steps[i]
		before, behind := steps[i-1], steps[i+1]
		if s.IsCall() && before.Everyone && behind.Everyone && before.By == s.By && behind.By == s.By {
			s.Everyone = true
		}
	}
}

// Empty says that nothing is to be done.
func (p *Plan) Empty() bool { return len(p.Steps) == 0 }

// Taking is when what a mechanism does takes effect.
type Taking struct{ By, When string }

// Takes says when what is written takes effect, where no program is told.
func (p *Plan) Takes() (list []Taking) {
	told := func(by string) bool {
		return slices.ContainsFunc(p.Steps, func(s Step) bool { return s.By == by && s.Do != nil })
	}
	for _, i := range p.Next.Items {
		written := slices.ContainsFunc(p.Steps, func(s Step) bool { return s.By == i.By })
		t := Taking{i.By, i.Takes}
		if written && i.Takes != "" && !told(i.By) && !slices.Contains(list, t) {
			list = append(list, t)
		}
	}
	return list
}
