package install

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"
	"time"

	"leitstand/core/change"
)

// Several users may have changes of the same machine-wide file, each with a journal of their own. So the machine keeps one
// record of each such file, which only an administrator can write: what it had before the first change, and which
// changes each user wants of it. It has those of all users, and what it had before when the last one restores.

// recordFolder is the machine's own record of what is for all its users.
const recordFolder = "/var/lib/leitstand"

// isRecord reports whether a file is one of the machine's own record.
func isRecord(name string) bool {
	return strings.HasPrefix(name, recordFolder+"/") && path.Clean(name) == name
}

// IsRecord reports whether a place is Leitstand's own state, as the journal is, and none that was asked for.
func (p Place) IsRecord() bool { return isRecord(p.Path) }

// recordOf is the folder that has the record of a file.
func recordOf(name string) string {
	return path.Join(recordFolder, strings.ReplaceAll(strings.TrimPrefix(name, "/"), "/", "%"))
}

// beforeOf is the file that says what a file had before the first change, and wantedOf the one that has what a user wants.
func beforeOf(name string) string       { return path.Join(recordOf(name), "before") }
func wantedOf(name, user string) string { return path.Join(recordOf(name), "users", user) }

// record is what the machine has recorded of a file.
type record struct {
	known  bool
	before State
	others [][]change.Change // that other users want, each user's by their number
}

// recorded is a file as it was before all changes.
type recorded struct {
	Data  *change.DescribedItem `json:"data,omitempty"`
	Mode  fs.FileMode           `json:"mode,omitempty"`
	Owner *[2]int               `json:"owner,omitempty"`
	Time  time.Time             `json:"time,omitzero"`
}

// record reads what is recorded of a file. One that neither root nor this user has written does not count.
func (p *planner) record(at Place) (r record, err error) {
	read := func(name string, to any) (bool, error) {
		s, err := p.over.now(Place{Path: name})
		if err != nil || s.File.Data == nil {
			return false, err
		}
		if f := s.File; f.Owned && f.UID != 0 || f.Mode&0o022 != 0 {
			return false, fmt.Errorf("%s is no administrator's, and is not used for that", name)
		}
		return true, json.Unmarshal(s.File.Data, to)
	}
	var was recorded
	if r.known, err = read(beforeOf(at.Path), &was); err != nil || !r.known {
		return r, err
	}
	data, err := change.DecodeData(was.Data)
	if err != nil {
		return r, err
	}
	if was.Data != nil && data == nil {
		data = []byte{}
	}
	r.before.File = File{Data: data, Mode: was.Mode & fs.ModePerm, Time: was.Time}
	if was.Owner != nil {
		r.before.File.UID, r.before.File.GID, r.before.File.Owned = was.Owner[0], was.Owner[1], true
	}
	users, err := p.m.List(path.Dir(wantedOf(at.Path, "0")))
	for _, user := range users {
		if user == p.m.User() || err != nil {
			continue
		}
		var list []json.RawMessage
		if _, err = read(wantedOf(at.Path, user), &list); err != nil {
			continue
		}
		var changes []change.Change
		for _, text := range list {
			c, fault := change.Decode(text)
			if of, ok := placeOf(c); fault != nil || !ok || of != at {
				return r, fmt.Errorf("%s: %w", wantedOf(at.Path, user), errLocation)
			}
			changes = append(changes, c)
		}
		r.others = append(r.others, changes)
	}
	return r, err
}

// withRecords are items with what is recorded of the machine-wide files that they change, each before the first change of
// its file. Nothing is recorded where a folder stands for a machine.
func (p *planner) withRecords(items []Item) (list []Item, err error) {
	if p.m.User() == "" {
		return items, nil
	}
	items = slices.DeleteFunc(slices.Clone(items), func(i Item) bool { // that are installed, and wanted anew
		at, ok := placeOf(i.Change)
		return ok && isRecord(at.Path)
	})
	done := map[Place]bool{}
	for _, item := range items {
		at, ok := placeOf(item.Change)
		if ok && item.Change.Note().Everyone && at.Path != "" && !isRecord(at.Path) && !done[at] {
			done[at] = true
			records, err := p.recordItems(at, items)
			if err != nil {
				return nil, err
			}
			list = append(list, records...)
		}
		list = append(list, item)
	}
	return list, nil
}

// recordItems are the files that record a file, and what this user wants of it.
func (p *planner) recordItems(at Place, items []Item) ([]Item, error) {
	base, err := p.base(at)
	if err != nil {
		return nil, err
	}
	f := base.File
	was := recorded{Data: change.EncodeData(f.Data), Mode: f.Mode, Time: f.Time}
	if f.Owned {
		was.Owner = &[2]int{f.UID, f.GID}
	}
	before, err := json.Marshal(was)
	if err != nil {
		return nil, err
	}
	var wanted []json.RawMessage
	var serves []string
	for _, i := range items {
		if of, ok := placeOf(i.Change); ok && of == at {
			text, err := change.Encode(i.Change)
			if err != nil {
				return nil, err
			}
			wanted, serves = append(wanted, text), append(serves, i.Rules...)
		}
	}
	text, err := json.Marshal(wanted)
	if err != nil {
		return nil, err
	}
	about := change.About{Everyone: true, Says: "Record for all users what the file had before, and who wants what of it."}
	return []Item{
		{By: own, Rules: serves, Change: change.File{About: about, Path: beforeOf(at.Path), Data: append(before, '\n')}},
		{By: own, Rules: serves, Change: change.File{
			About: about, Path: wantedOf(at.Path, p.m.User()), Data: append(text, '\n'),
		}},
	}, nil
}

// base is a machine-wide file as it was before all users' changes.
func (p *planner) base(at Place) (State, error) {
	r, err := p.record(at)
	if err != nil || r.known {
		return r.before, err
	}
	if i := slices.IndexFunc(p.was.Held, func(h Held) bool { return h.Place == at }); i >= 0 {
		return p.was.Held[i].Before, nil
	}
	return p.over.now(at)
}

// takeBackShared has, in memory, a machine-wide file as other users want it. It reports whether the file is as some of
// them, or this one, have left it.
func (p *planner) takeBackShared(h Held, now State) (known bool, err error) {
	r, err := p.record(h.Place)
	if err != nil {
		return false, err
	}
	base := h.Before
	if r.known {
		base = r.before
	}
	var mine []change.Change
	for _, i := range p.was.Items {
		if at, ok := placeOf(i.Change); ok && at == h.Place {
			mine = append(mine, i.Change)
		}
	}
	if without, merges := inverses(mine, nil); merges {
		// Lines and blocks of several users stand in one file in any order.
		all, _ := inverses(slices.Concat(append(slices.Clone(r.others), mine)...), nil)
		bare, err := carried(p.m, h.Place, now, all)
		if err != nil {
			return false, err
		}
		without, _ = inverses(mine, slices.Concat(r.others...))
		then, err := carried(p.m, h.Place, now, without)
		if err != nil {
			return false, err
		}
		if !bare.Same(base) {
			return false, nil
		}
		if len(r.others) == 0 {
			then = base
		}
		p.over.to[h.Place] = then
		return true, nil
	}
	then, err := carried(p.m, h.Place, base, r.others...)
	if err != nil {
		return false, err
	}
	known = now.Same(base) || now.Same(then)
	for _, changes := range append(slices.Clone(r.others), mine) { // whoever wrote it last
		as, err := carried(p.m, h.Place, base, changes)
		if err != nil {
			return false, err
		}
		if known = known || now.Same(as); now.Same(as) && len(r.others) > 0 && !sameChanges(changes, mine) {
			then = now // it stays theirs
		}
	}
	if known {
		p.over.to[h.Place] = then
	}
	return known, nil
}

// inverses are what takes changes out of a place, the last first, but for those that somebody else wants, too. Merges is
// false where one of them cannot be taken out.
func inverses(changes, but []change.Change) (list []change.Change, merges bool) {
	for _, c := range slices.Backward(changes) {
		back, ok := inverse(c)
		if !ok {
			return nil, false
		}
		if !slices.ContainsFunc(but, func(o change.Change) bool { return sameChanges([]change.Change{c}, []change.Change{o}) }) {
			list = append(list, back)
		}
	}
	return list, len(changes) > 0
}

// sameChanges reports whether two lists make the same changes.
func sameChanges(a, b []change.Change) bool {
	return slices.EqualFunc(a, b, func(x, y change.Change) bool { return (Item{Change: x}).same(Item{Change: y}) })
}

// carried is a place with changes made one after the other.
func carried(m Machine, at Place, base State, lists ...[]change.Change) (State, error) {
	o := newOverlay(m)
	o.to[at] = base
	for _, list := range lists {
		if _, err := change.Carry(list, o); err != nil {
			return State{}, err
		}
	}
	return o.then(at)
}

// shared reports whether a place is a file that other users of the machine may have changes of.
func (p *planner) shared(at Place) bool {
	return p.m.User() != "" && at.Path != "" && slices.ContainsFunc(p.was.Items, func(i Item) bool {
		of, ok := placeOf(i.Change)
		return ok && of == at && i.Change.Note().Everyone
	})
}

// takeBackRecord has, in memory, a record without this user: what a file had before stays known while another user has
// changes of it.
func (p *planner) takeBackRecord(name string, now State) error {
	p.over.to[Place{Path: name}] = State{}
	if path.Base(name) != "before" {
		return nil
	}
	users, err := p.m.List(path.Join(path.Dir(name), "users"))
	if slices.ContainsFunc(users, func(u string) bool { return u != p.m.User() }) {
		p.over.to[Place{Path: name}] = now
	}
	return err
}

// restored reports whether this user has no changes any more of a place that is an administrator's to write.
func (i Installer) restored(h Held, now State) bool {
	if i.Machine.User() == "" || h.Path == "" {
		return now.Same(h.Before)
	}
	mine := wantedOf(h.Path, i.Machine.User())
	switch {
	case isRecord(h.Path) && path.Base(h.Path) == "before":
		mine = path.Join(path.Dir(h.Path), "users", i.Machine.User())
	case isRecord(h.Path):
		mine = h.Path
	}
	wanted, err := i.Machine.File(mine)
	return now.Same(h.Before) || err == nil && wanted.Data == nil && (isRecord(h.Path) || !now.Same(h.After))
}
