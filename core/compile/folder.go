package compile

import (
	"encoding/json"
	"os"
	"path/filepath"

	"leitstand/core/folder"
)

// WriteFolder puts each machine's files below dir, in a folder of its name. What others have
// put there stays, and is an error where it is in the way. It returns what a former compile has there and
// the mapping wants no longer; the page of steps says how that is taken out.
func WriteFolder(dir string, builds []*Build) (gone []Gone, err error) {
	var sets []folder.Set
	for _, b := range builds {
		gone = append(gone, b.since(folder.Regular(os.DirFS(filepath.Join(dir, b.Machine.Name))))...)
		s := folder.Set{Name: b.Machine.Name, Record: DescriptionFile}
		for _, f := range b.Folder() {
			s.Files = append(s.Files, folder.File{Path: f.Path, Data: f.Data})
		}
		sets = append(sets, s)
	}
	return gone, folder.Write(dir, sets, recorded)
}

// recorded reads from a machine's description which files were written with it.
func recorded(text []byte) (map[string]string, bool) {
	var d description
	if json.Unmarshal(text, &d) != nil || d.Machine == "" {
		return nil, false
	}
	digests := map[string]string{}
	for _, f := range d.Files {
		if len(f.Digest) == 64 {
			digests[f.Path] = f.Digest
		}
	}
	return digests, len(digests) > 0
}
