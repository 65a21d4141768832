package host

import "path/filepath"

// The mapping's name, and that of a folder with the files of one.
const (
	MappingFile   = "leitstand.hcl"
	mappingFolder = "leitstand"
)

// FindMapping is where the mapping is that nobody has named: where LEITSTAND_FILE says; else leitstand.hcl in the
// folder at hand, or a folder leitstand there; else either in a folder of the user's configuration, which is "" where
// there is none. Has says whether a path is a file, or a folder with files of a mapping in it. Elsewhere says that it
// is not in the folder at hand, so that a user should be told.
func FindMapping(env func(string) string, config string, has func(path string) bool) (path string, elsewhere bool) {
	if named := env("LEITSTAND_FILE"); named != "" {
		return named, true
	}
	here := []string{MappingFile, mappingFolder}
	for _, path := range here {
		if has(path) {
			return path, false
		}
	}
	if config == "" {
		return MappingFile, false
	}
	of := filepath.Join(config, mappingFolder)
	for _, path := range []string{filepath.Join(of, MappingFile), of} {
		if has(path) {
			return path, true
		}
	}
	return MappingFile, false
}
