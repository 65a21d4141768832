package textkeys

import (
	"bytes"
	"fmt"

	"howett.net/plist"

	"leitstand/core/change"
	"leitstand/core/mechanism"
)

const (
	compiled = "textkeys/DefaultKeyBinding.dict"
	goes     = "~/Library/KeyBindings/DefaultKeyBinding.dict"
)

// Write makes the file of key bindings, into which the user's own are merged.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	all := map[string]any{}
	for _, b := range list {
		if p := b.Plan.(plan); !put(all, p) {
			return mechanism.Output{}, fmt.Errorf("textkeys: %s begins with what another press does", b.Press())
		}
	}
	for _, b := range list {
		if p := b.Plan.(plan); p.selecting != "" && all[p.shifted] == nil {
			all[p.shifted] = p.selecting
		}
	}
	text, err := plist.MarshalIndent(all, plist.XMLFormat, "  ")
	if err != nil {
		return mechanism.Output{}, fmt.Errorf("textkeys: %w", err)
	}
	text = bytes.ReplaceAll(text, []byte("\r"), []byte("&#xD;"))
	about := change.About{Serves: mechanism.Presses(list), In: compiled,
		Says: "Copy the key bindings of texts. Bindings of your own that are there already are kept, and merged " +
			"where the mapping has no other; start the programs anew then.",
		Unsays: "Have your own key bindings as they were; start the programs anew then."}
	shell := func(line string) []string { return []string{"sh", "-c", line} }
	return mechanism.Changed([]change.Change{
		change.Call{About: about, Do: shell(own + save), Undo: shell(own + restore), InTurn: true},
		change.File{About: about, Path: goes, Data: append(text, '\n'), Merged: true},
		change.Call{About: about, Do: shell(own + merge)},
	}), nil
}

// The user's own file is saved once, or that there was none, merged into ours, and put back.
const (
	own = "f=" + goes + `; saved=~/Library/"Application Support"/Leitstand/DefaultKeyBinding.dict; ` +
		`mkdir -p "${saved%/*}" "${f%/*}"` + "\n"
	save = `if ! [ -e "$saved" ] && ! [ -e "$saved.none" ]; then if [ -e "$f" ]; then cp "$f" "$saved"; ` +
		`else touch "$saved.none"; fi; fi`
	merge = `if [ -e "$saved" ]; then t=$(mktemp); plutil -convert xml1 -o "$t" "$saved" && ` +
		`/usr/libexec/PlistBuddy -c "Merge $t" "$f"; rm "$t"; fi`
	restore = `if [ -e "$saved" ]; then mv "$saved" "$f"; else rm -f "$saved.none"; rmdir "${f%/*}" 2> /dev/null || true; fi`
)

// put puts a plan among the bindings; false where its strokes begin with those of another, or it
// begins another's.
func put(all map[string]any, p plan) bool {
	for i, stroke := range p.strokes {
		if i == len(p.strokes)-1 {
			if _, taken := all[stroke]; taken {
				return false
			}
			if all[stroke] = p.command; p.text != "" {
				all[stroke] = []string{"insertText:", p.text}
			}
			return true
		}
		if all[stroke] == nil {
			all[stroke] = map[string]any{}
		}
		further, ok := all[stroke].(map[string]any)
		if !ok {
			return false
		}
		all = further
	}
	return false
}
