package install

import (
	"fmt"
	"slices"
	"strings"

	"leitstand/core/change"
)

// clear removes values that only one key of a folder may have from the other keys that have them.
func (p *planner) clear() error {
	gone := map[int][]Item{} // by the item that they go for
	for n, i := range p.want.Items {
		s, ok := i.Change.(change.Setting)
		if !ok || !s.Sole || s.To == nil {
			continue
		}
		others, err := p.others(s)
		if err != nil {
			return err
		}
		for _, key := range others {
			i.Change = change.Setting{About: s.About, Store: s.Store, Key: key, Sole: true}
			gone[n] = append(gone[n], i)
		}
		p.know(gone[n])
	}
	with := func(list []Item) (all []Item) {
		for n, i := range list {
			all = append(append(all, gone[n]...), i)
		}
		return all
	}
	p.want.Items, p.plan.Next.Items = with(p.want.Items), with(p.plan.Next.Items)
	return nil
}

// others lists the keys of a setting's folder that have its value and that no wanted item sets.
func (p *planner) others(s change.Setting) (list []string, err error) {
	folder := s.Key[:strings.LastIndexByte(s.Key, '/')+1]
	there, err := p.m.Keys(s.Store, folder)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", folder, err)
	}
	for _, h := range p.was.Held { // the machine does not list what an earlier install removed
		there = append(there, Entry{Key: h.Key})
	}
	for _, e := range there {
		at := Place{Store: s.Store, Key: e.Key}
		if !strings.HasPrefix(e.Key, folder) || p.wants(at) {
			continue
		}
		then, err := p.over.then(at)
		if err != nil {
			return nil, err
		}
		if change.Same(then.Value, s.To) && !slices.Contains(list, e.Key) {
			list = append(list, e.Key)
		}
	}
	return list, nil
}
