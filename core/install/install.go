// Package install carries the changes of a machine out, and takes them back.
//
// What changes touch are places: files, and keys of stores. Of each place the journal keeps what it had before the
// first change, and what it had after the last. A plan begins from the machine as it was before all changes of ours:
// it carries the wanted changes out on that in memory, and what differs then from what is there is to be written. So
// an install that finds nothing else to do does nothing; a rule that has left the mapping leaves the machine; and to
// restore is to want nothing.
//
// The journal is written, and synced, before the first place is changed, with all that is about to be done. What
// breaks off is taken back by the next command.
package install

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"time"

	"leitstand/core/change"
)

// Machine is what changes are carried out on. Paths that begin with ~ are in the user's home.
type Machine interface {
	// File is a file as it is; one without data where there is none.
	File(path string) (File, error)
	// Put writes a file, whole or not at all, with its folders; one without data is removed. It fails with
	// change.ErrChanged, and loses nothing, where the file is not as it was any more.
	Put(path string, was, f File) error
	// Sweep removes what a writing of a file that broke off may have left beside it. What somebody had written into
	// the file meanwhile is put back.
	Sweep(path string) error
	// List names the files of a folder, in the order of their names; there are none where it is not there.
	List(folder string) ([]string, error)
	// User is the number of the user that this runs as, "" where no other user shares the machine.
	User() string
	// Mark begins a run: it names what is written beside files until it is whole, and Sweep removes.
	Mark(mark string)
	// Missing are the folders above a file that are not there, the outermost first.
	Missing(path string) []string
	// RemoveFolder removes a folder that is empty; one that is not stays, without an error.
	RemoveFolder(path string) error
	// Get is the user's own value of a key, nil for none.
	Get(store, key string) (change.Value, error)
	// Keys lists the user's own values in a folder of a store, of Xfce's only, in the order of their keys. The folder
	// is a key that ends with a slash.
	Keys(store, folder string) ([]Entry, error)
	// Set gives keys of one store their values, all of them in one go.
	Set(store string, list []Entry) error
	// KeptIn is the file that has a key, "" where a program keeps it.
	KeptIn(store, key string) string
	// Call runs a program. It fails with ErrAway where that is one of a session, and there is none.
	Call(words []string) error
}

// ErrAway is for a call to a program of the user's session where there is none.
var ErrAway = errors.New("there is no session")

// Entry is a key with its value, nil for none, and what the store calls it.
type Entry struct {
	Key   string
	Value change.Value
	Label string
}

// Place is a file, by its path, or a key of a store.
type Place struct {
	Path  string `json:"path,omitempty"`
	Store string `json:"store,omitempty"`
	Key   string `json:"key,omitempty"`
}

// String names the place.
func (p Place) String() string {
	if p.Path != "" {
		return p.Path
	}
	return p.Store + " " + p.Key
}

// State is what a place has: a file, or a value.
type State struct {
	File  File
	Value change.Value
}

// File is a file with what a restore gives back beside its bytes.
type File struct {
	Data []byte // nil for none
	Mode fs.FileMode
	// UID and GID are the numbers of its owner and group; Owned says that they are known.
	UID, GID int
	Owned    bool
	Time     time.Time // when it was changed last; zero for now

	copied string // the digest of the copy that has its data, until that is read
}

// Same says whether two states are: of files by their bytes.
func (s State) Same(o State) bool {
	if a, ok := s.Value.(change.Texts); ok {
		b, ok := o.Value.(change.Texts)
		return ok && slices.Equal(a, b)
	}
	return bytes.Equal(s.File.Data, o.File.Data) && (s.File.Data == nil) == (o.File.Data == nil) && s.Value == o.Value
}

// brief is the state in a few words, for messages.
func (s State) brief() string {
	switch {
	case s.Absent():
		return "nothing"
	case s.Value != nil:
		return fmt.Sprint(s.Value)
	}
	return fmt.Sprintf("%d bytes", len(s.File.Data))
}

// Absent says whether there is neither a file nor a value.
func (s State) Absent() bool { return s.File.Data == nil && s.Value == nil }

// Item is a planned change, who makes it, and what for.
type Item struct {
	Change change.Change
	By     string   // the mechanism
	Takes  string   // when it takes effect, as a sentence
	Rules  []string // those that it serves, by their titles
}

// placeOf is the place of a change; ok is false for one without a place.
func placeOf(c change.Change) (p Place, ok bool) {
	switch c := c.(type) {
	case change.File:
		return Place{Path: c.Path}, true
	case change.Line:
		return Place{Path: c.Path}, true
	case change.Block:
		return Place{Path: c.Path}, true
	case change.Setting:
		return Place{Store: c.Store, Key: c.Key}, !c.Assumed
	case change.Member:
		return Place{Store: c.Store, Key: c.Key}, true
	case change.Call, change.Hand: // a word, and what a person does
	}
	return Place{}, false
}

// inverse is what takes a change out of a place where others have changed more since, if there is such a thing.
func inverse(c change.Change) (change.Change, bool) {
	switch c := c.(type) {
	case change.Line:
		c.Gone = !c.Gone
		return c, true
	case change.Block:
		c.Text = ""
		return c, true
	case change.Member:
		c.Gone = !c.Gone
		return c, true
	case change.File, change.Setting, change.Call, change.Hand: // a place has one, and nothing beside it
	}
	return nil, false
}

// label is what a store calls the key of a change.
func label(c change.Change) string {
	if s, ok := c.(change.Setting); ok {
		return s.Label
	}
	return ""
}
