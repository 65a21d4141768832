package install

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"leitstand/core/change"
)

// Installed is what is in place.
type Installed struct {
	Machine string    `json:"machine"` // its name in the mapping
	Mapping string    `json:"mapping"` // where that is
	Commit  string    `json:"commit,omitempty"`
	At      time.Time `json:"at"`
	Items   []Item    `json:"changes"`
	Held    []Held    `json:"places"`
	Folders []string  `json:"folders,omitempty"` // that were made
	// Files are those that have keys of ours, so that they have just their bytes when all keys go.
	Files   []KeyFile `json:"files,omitempty"`
	Without []string  `json:"without,omitempty"` // rules that were taken back by themselves
	// Paused is what resume puts in place again.
	Paused []Item `json:"paused,omitempty"`
}

// Held is a place that is changed.
type Held struct {
	Place
	Label  string `json:"label,omitempty"`
	Before State  `json:"before"` // as it was before our first change
	After  State  `json:"after"`  // as it was after our last one, or will be when an administrator has made it
	// Former is what it has until an administrator has made the last change.
	Former *State `json:"former,omitempty"`
	// Leaving: it is wanted no longer, and waits for an administrator who takes it back.
	Leaving bool `json:"leaving,omitempty"`
}

// KeyFile is a file that has keys of ours among others: what it was before them, and the digest of what it was after.
type KeyFile struct {
	Path   string `json:"path"`
	Before State  `json:"before"`
	After  string `json:"after"`
}

// Journal is what the state folder keeps.
type Journal struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Installed
	Begun *Begun `json:"begun,omitempty"`
	Trial *Trial `json:"trial,omitempty"`
	// Untold are undo commands that failed.
	Untold []Step `json:"untold,omitempty"`
}

// Begun is what was begun, and is not done yet.
type Begun struct {
	Steps []Step    `json:"steps"`
	Next  Installed `json:"next"`
	Terms Terms     `json:"terms,omitzero"` // of a trial
	Mark  string    `json:"mark,omitempty"` // of the files that are written beside others
}

// The form of the journal. Version 2 names commands and has no words of them; of version 1, nothing is run.
const (
	format  = "leitstand journal"
	version = 2
)

// Book keeps the journal, and copies of files beside it by their digests. It returns an error where somebody else could
// have written what it reads.
type Book interface {
	// Read fails with fs.ErrNotExist where there is none.
	Read() ([]byte, error)
	// Write writes it whole or not at all; what it returns from is on the disk.
	Write(data []byte) error
	// Remove removes it, and all copies.
	Remove() error
	// Keep keeps a copy, which is on the disk when it returns.
	Keep(digest string, data []byte) error
	// Copy is a copy that was kept.
	Copy(digest string) ([]byte, error)
	// Retain removes all copies but some.
	Retain(digests map[string]bool) error
}

// inline is the size in bytes up to which what is in a file is written into the journal itself.
const inline = 4 << 10

// Largest is the size in bytes up to which a file is changed. What a larger one had would have to be kept several times.
const Largest = 4 << 20

// Open reads the journal.
func Open(b Book) (*Journal, error) {
	j := &Journal{Format: format, Version: version}
	data, err := b.Read()
	if errors.Is(err, fs.ErrNotExist) {
		return j, nil
	}
	if err != nil {
		return nil, err
	}
	var head struct {
		Format  string `json:"format"`
		Version int    `json:"version"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return nil, fmt.Errorf("the journal cannot be read: %w", err)
	}
	switch {
	case head.Format != format:
		return nil, errors.New("the journal is none of leitstand's")
	case head.Version < version:
		return nil, fmt.Errorf("what is installed was installed by an older leitstand, whose journal (version %d) has "+
			"commands in it, and this program runs none of them; restore by the script restore.sh beside the journal, "+
			"and remove the journal", head.Version)
	case head.Version > version:
		return nil, fmt.Errorf("what is installed was installed by a newer leitstand (its journal has version %d, "+
			"and this program knows %d); use that one", head.Version, version)
	}
	if err := json.Unmarshal(data, j); err != nil {
		return nil, fmt.Errorf("the journal cannot be read: %w", err)
	}
	if err := j.check(); err != nil {
		return nil, fmt.Errorf("the journal is not trusted, and nothing was changed: %w", err)
	}
	for _, s := range j.states() {
		if err := s.fill(b); err != nil {
			return nil, fmt.Errorf("the journal cannot be read: %w", err)
		}
	}
	return j, nil
}

// fill reads the copy of what was in a file.
func (s *State) fill(b Book) (err error) {
	f := &s.File
	if f.copied == "" {
		return nil
	}
	if f.Data, err = b.Copy(f.copied); err != nil {
		return err
	}
	if digest(f.Data) != f.copied {
		return fmt.Errorf("the copy %s is damaged", f.copied)
	}
	f.copied = ""
	return nil
}

// states are all states that the journal has.
func (j *Journal) states() (list []*State) {
	of := func(in *Installed) {
		for i := range in.Held {
			h := &in.Held[i]
			if list = append(list, &h.Before, &h.After); h.Former != nil {
				list = append(list, h.Former)
			}
		}
		for i := range in.Files {
			list = append(list, &in.Files[i].Before)
		}
	}
	steps := func(all []Step) {
		for _, s := range all {
			for i := range s.Writes {
				list = append(list, &s.Writes[i].From, &s.Writes[i].To)
			}
		}
	}
	of(&j.Installed)
	if j.Begun != nil {
		of(&j.Begun.Next)
		steps(j.Begun.Steps)
	}
	if j.Trial != nil {
		of(&j.Trial.Was)
		steps(j.Trial.Steps)
	}
	return list
}

// Empty says that nothing is in place, nor begun.
func (j *Journal) Empty() bool {
	return len(j.Items) == 0 && len(j.Paused) == 0 && len(j.Held) == 0 && len(j.Folders) == 0 && j.Begun == nil &&
		j.Trial == nil && len(j.Untold) == 0
}

func (j *Journal) save(b Book) error {
	if j.Empty() {
		err := b.Remove()
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		return err
	}
	copies := map[string]bool{}
	for _, s := range j.states() {
		if d := s.File.Data; len(d) > inline && !copies[digest(d)] {
			copies[digest(d)] = true
			if err := b.Keep(digest(d), d); err != nil {
				return err
			}
		}
	}
	data, err := json.MarshalIndent(j, "", "  ")
	if err != nil {
		return err
	}
	if err := b.Write(append(data, '\n')); err != nil {
		return err
	}
	return b.Retain(copies)
}

type item struct {
	Change json.RawMessage `json:"change"`
	By     string          `json:"by"`
	Takes  string          `json:"takes,omitempty"`
	Rules  []string        `json:"rules,omitempty"`
}

// MarshalJSON spells the item.
func (i Item) MarshalJSON() ([]byte, error) {
	data, err := change.Encode(i.Change)
	if err != nil {
		return nil, err
	}
	return json.Marshal(item{data, i.By, i.Takes, i.Rules})
}

// UnmarshalJSON reads what MarshalJSON spelled.
func (i *Item) UnmarshalJSON(data []byte) error {
	var read item
	if err := json.Unmarshal(data, &read); err != nil {
		return err
	}
	c, err := change.Decode(read.Change)
	*i = Item{c, read.By, read.Takes, read.Rules}
	return err
}

type state struct {
	Data  *change.DescribedItem `json:"data,omitempty"`
	Copy  string                `json:"copy,omitempty"` // the digest of what is kept beside the journal
	Value *change.DescribedItem `json:"value,omitempty"`
	Mode  fs.FileMode           `json:"mode,omitempty"`
	Owner *[2]int               `json:"owner,omitempty"` // user, group
	Time  time.Time             `json:"time,omitzero"`
}

// MarshalJSON spells the state.
func (s State) MarshalJSON() ([]byte, error) {
	f := s.File
	spelled := state{Value: change.EncodeValue(s.Value), Mode: f.Mode, Time: f.Time}
	if len(f.Data) > inline {
		spelled.Copy = digest(f.Data)
	} else {
		spelled.Data = change.EncodeData(f.Data)
	}
	if f.Owned {
		spelled.Owner = &[2]int{f.UID, f.GID}
	}
	return json.Marshal(spelled)
}

// UnmarshalJSON reads what MarshalJSON spelled.
func (s *State) UnmarshalJSON(data []byte) error {
	var read state
	if err := json.Unmarshal(data, &read); err != nil {
		return err
	}
	var err error
	if s.File.Data, err = change.DecodeData(read.Data); err != nil {
		return err
	}
	if read.Data != nil && s.File.Data == nil {
		s.File.Data = []byte{}
	}
	s.File.copied = read.Copy
	s.File.Mode, s.File.Time = read.Mode&fs.ModePerm, read.Time
	if read.Owner != nil {
		s.File.UID, s.File.GID, s.File.Owned = read.Owner[0], read.Owner[1], true
	}
	s.Value, err = change.DecodeValue(read.Value)
	return err
}
