package report

import (
	"slices"
	"time"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/compare"
	"leitstand/core/install"
	"leitstand/core/keys"
)

// Installation is what install, restore, pause and resume say before they do it, and when it is done.
type Installation struct {
	Version int    `json:"version"`
	Machine string `json:"machine"`
	Mapping string `json:"mapping,omitempty"`
	// State is planned, nothing-to-do, installed, on-trial or restored.
	State string `json:"state"`
	// What keys do otherwise then.
	Presses []PlannedPress `json:"presses"`
	// Why that cannot be told, "" where it can.
	Unread string `json:"unread,omitempty"`
	// The places that are written, and the words to programs, in their order.
	Changes []PlacedChange `json:"changes"`
	// The presses that the user's own configuration binds as well, and where that is.
	Clashes []string `json:"clashes,omitempty"`
	In      string   `json:"in,omitempty"`
	// What somebody has changed since the last time.
	Drift []Drifted `json:"drift"`
	// When it takes effect, where that is not at once.
	Takes []Taking `json:"takes"`
	// What a person does, because no file can.
	ByHand []string `json:"byHand"`
	// The places that an administrator has to write, and the script that does it.
	Administrator int    `json:"administrator"`
	Script        string `json:"script,omitempty"`
	// Programs that were not told, since there is no session.
	Untold []string `json:"untold,omitempty"`
	// Until when it is on trial.
	Until *time.Time `json:"until,omitempty"`
	// Places that could not be restored, and why, a line each.
	Stuck []string `json:"stuck,omitempty"`
}

// PlannedPress is a press that does something else.
type PlannedPress struct {
	Press string `json:"press"`
	Now   string `json:"now,omitempty"` // "" for what it does by itself
	Then  string `json:"then,omitempty"`
}

// planned are changes of presses. Where a key of a layer acts as a key that no keyboard has, and that key does something, the
// first does it: the other only leads there.
func planned(list []behaviour.Change) []PlannedPress {
	behind := map[keys.Key]*behaviour.Effect{}
	for _, c := range list {
		if k := c.Place.Chord.Key; c.Place.Level == behaviour.Hotkey && c.Place.Chord.Mods == 0 && c.Place.Then == "" &&
			k.Section() == keys.Function && k.String() > "F12" && len(k.String()) == len("F12") && c.Before == nil {
			behind[k] = c.After
		}
	}
	presses, led := []PlannedPress{}, map[keys.Key]bool{}
	for _, c := range list {
		p := PlannedPress{c.Press, Effect(c.Before), Effect(c.After)}
		if e := c.After; c.Place.Layer != "" && e != nil && e.Kind == behaviour.Becomes && behind[e.Key] != nil {
			p.Then, led[e.Key] = Effect(behind[e.Key])+" (through "+e.Key.String()+")", true
		}
		presses = append(presses, p)
	}
	return slices.DeleteFunc(presses, func(p PlannedPress) bool {
		k, ok := keys.ByCode(p.Press)
		return ok && led[k]
	})
}

// PlacedChange is a place that is written, or a word to a program.
type PlacedChange struct {
	By       string   `json:"by"`
	Path     string   `json:"path,omitempty"`
	Store    string   `json:"store,omitempty"`
	Key      string   `json:"key,omitempty"`
	From     *Content `json:"from,omitempty"` // none where there is nothing
	To       *Content `json:"to,omitempty"`
	Call     []string `json:"call,omitempty"`
	Everyone bool     `json:"everyone"`
	Rules    []string `json:"rules,omitempty"`

	Unified string `json:"-"` // of files, how their text differs
	Says    string `json:"-"` // of calls, what a person is told who does it
}

// Content is what is in a file, or a value of a store, by its type.
type Content = change.DescribedItem

// Drifted is a place that somebody has changed since it was installed.
type Drifted struct {
	Path   string   `json:"path,omitempty"`
	Store  string   `json:"store,omitempty"`
	Key    string   `json:"key,omitempty"`
	Ours   *Content `json:"ours,omitempty"`
	Now    *Content `json:"now,omitempty"`
	Left   bool     `json:"left"`   // it stays as it is
	Merged bool     `json:"merged"` // what is not ours stays beside what is
	Rules  []string `json:"rules,omitempty"`
}

// Taking is when what a mechanism does takes effect.
type Taking struct {
	By   string `json:"by"`
	When string `json:"when"`
}

// InstallationOf is what a plan is, in words and values; unread is why it cannot be told what presses do.
func InstallationOf(state string, plan *install.Plan, presses []behaviour.Change, unread error) Installation {
	r := Installation{
		Version: Version, Machine: plan.Next.Machine, Mapping: plan.Next.Mapping, State: state,
		Presses: []PlannedPress{}, Changes: PlacedChanges(plan.Steps), Drift: []Drifted{}, Takes: []Taking{},
		ByHand: []string{},
	}
	if unread != nil {
		r.Unread = unread.Error()
	}
	r.Presses = planned(presses)
	for _, d := range plan.Drift {
		r.Drift = append(r.Drift, Drifted{
			d.Path, d.Store, d.Key, content(d.After), content(d.Now), d.Left, d.Merged, d.Rules,
		})
	}
	for _, h := range plan.Hands {
		r.ByHand = append(r.ByHand, h.Change.Note().Says)
	}
	for _, c := range r.Changes {
		if c.Everyone && c.Call == nil {
			r.Administrator++
		}
	}
	for _, s := range plan.Untold {
		r.Untold = append(r.Untold, spoken(s.Do))
	}
	for _, t := range plan.Takes() {
		r.Takes = append(r.Takes, Taking(t))
	}
	return r
}

// PlacedChanges are the places that steps write, and what they tell programs.
func PlacedChanges(steps []install.Step) []PlacedChange {
	list := []PlacedChange{}
	// Leitstand's own record is nobody's concern, unless it is all that an administrator has to write.
	beside := slices.ContainsFunc(steps, func(s install.Step) bool {
		return s.Everyone && slices.ContainsFunc(s.Writes, func(w install.Write) bool { return !w.IsRecord() })
	})
	for _, s := range steps {
		if s.Do != nil {
			list = append(list, PlacedChange{By: s.By, Call: s.Do, Everyone: s.Everyone, Says: s.Says})
		}
		for _, w := range s.Writes {
			if w.IsRecord() && beside {
				continue
			}
			c := PlacedChange{
				By: s.By, Path: w.Path, Store: w.Store, Key: w.Key, From: content(w.From), To: content(w.To),
				Everyone: s.Everyone, Rules: w.Rules,
			}
			if w.Path != "" {
				c.Unified = compare.Unified(w.Path, w.From.File.Data, w.To.File.Data)
			}
			list = append(list, c)
		}
	}
	return list
}

func content(s install.State) *Content {
	if s.File.Data != nil {
		return change.EncodeData(s.File.Data)
	}
	return change.EncodeValue(s.Value)
}

func spoken(words []string) string {
	if len(words) > 2 && words[0] == "sh" {
		return words[2]
	}
	text := words[0]
	for _, w := range words[1:] {
		text += " " + change.ShellWord(w)
	}
	return text
}

// Status is what status says.
type Status struct {
	Version int `json:"version"`
	// State is nothing (is installed), installed, on-trial, drifted, paused, or stuck: all that is left could not be
	// restored yet.
	State   string     `json:"state"`
	Machine string     `json:"machine,omitempty"`
	Mapping string     `json:"mapping,omitempty"`
	Commit  string     `json:"commit,omitempty"` // of the mapping's repository, when it was installed
	At      *time.Time `json:"at,omitempty"`
	Until   *time.Time `json:"until,omitempty"` // of a trial
	Places  int        `json:"places"`
	Without []string   `json:"without,omitempty"` // rules that were taken back by themselves
	// The mapping says something else by now.
	Edited bool `json:"edited"`
	// What somebody has changed since, and what that does to keys.
	Drift []Drifted `json:"drift"`
	// Kept are places with somebody else's changes, which a restore has left as they are.
	Kept    []Drifted      `json:"kept,omitempty"`
	Presses []PlannedPress `json:"presses"`
	// Why what that does to keys cannot be told, "" where it can.
	Unread string `json:"unread,omitempty"`
	// The places that wait for an administrator.
	Waiting []PlacedChange `json:"waiting"`
}

// StatusOf is what is in place, with the plan that would bring back what is not, and what presses do then, or why that
// cannot be told; edited says that the mapping says something else by now.
func StatusOf(
	j *install.Journal, plan *install.Plan, presses []behaviour.Change, unread error, edited bool,
) Status {
	s := Status{
		Version: Version, State: "installed", Machine: j.Machine, Mapping: j.Mapping, Commit: j.Commit, At: &j.At,
		Without: j.Without, Edited: edited, Drift: []Drifted{}, Presses: []PlannedPress{},
		Waiting: []PlacedChange{},
	}
	held := map[install.Place]install.Held{}
	for _, h := range j.Held {
		held[h.Place] = h
		if !h.IsRecord() {
			s.Places++
		}
	}
	for _, step := range plan.Steps {
		for _, w := range step.Writes {
			h := held[w.Place]
			waits := h.Leaving || w.From.Same(h.Before) || h.Former != nil && w.From.Same(*h.Former)
			if step.Everyone && waits { // nobody has made it yet
				s.Waiting = append(s.Waiting, PlacedChanges([]install.Step{{By: step.By, Writes: []install.Write{w}}})...)
				continue
			}
			s.Drift = append(s.Drift, Drifted{
				Path: w.Path, Store: w.Store, Key: w.Key, Ours: content(w.To), Now: content(w.From), Rules: w.Rules,
			})
		}
	}
	for _, h := range j.Held {
		planned := slices.ContainsFunc(plan.Steps, func(step install.Step) bool {
			return slices.ContainsFunc(step.Writes, func(w install.Write) bool { return w.Place == h.Place })
		})
		if j.At.IsZero() && h.Leaving && !h.IsRecord() && !planned {
			s.Kept = append(s.Kept, Drifted{Path: h.Path, Store: h.Store, Key: h.Key, Ours: content(h.After), Now: content(h.After)})
		}
	}
	if unread != nil {
		s.Unread = unread.Error()
	}
	if len(s.Drift) > 0 {
		for _, c := range presses { // from what is now to what was installed
			s.Presses = append(s.Presses, PlannedPress{c.Press, Effect(c.After), Effect(c.Before)})
		}
	}
	switch {
	case j.Trial != nil:
		if s.State = "on-trial"; !j.Trial.Until.IsZero() {
			s.Until = &j.Trial.Until
		}
	case len(s.Drift)+len(s.Kept) > 0 && j.At.IsZero():
		s.State, s.At = "stuck", nil
	case len(s.Drift) > 0:
		s.State = "drifted"
	case len(j.Paused) > 0:
		s.State = "paused"
	case len(j.Items) == 0:
		s = Status{Version: Version, State: "nothing", Drift: s.Drift, Presses: s.Presses, Waiting: s.Waiting}
	}
	return s
}
