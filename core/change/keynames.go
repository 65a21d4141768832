package change

import (
	"fmt"
	"regexp"
	"strconv"
)

// keyNames are the names of keys that each settings database takes. dconf's paths begin with a slash and have no empty
// part (dconf's API reference, "Paths"); the parts that desktops use are of these characters. Xfce's properties are of
// letters, digits and the characters that its documentation lists (xfconf's API reference, "XfconfChannel"). A key of
// KDE is a file of the user's configuration folder, groups in brackets and a name without line ends or brackets
// (KDE's documentation of KConfig, "Desktop Entry Syntax").
var keyNames = map[string]*regexp.Regexp{
	Dconf:  regexp.MustCompile(`^(/[A-Za-z0-9_.:@+-]+)+$`),
	Xfconf: regexp.MustCompile(`^[A-Za-z0-9_.:,\[\]{}-]+:(/[^/\x00-\x1f\x7f]+)+$`),
	KDE:    regexp.MustCompile(`^[A-Za-z0-9_][A-Za-z0-9_.-]*:(\[[^\[\]\x00-\x1f\x7f]+\])+[^=\[\]\x00-\x1f\x7f]+$`),
	Keeper: regexp.MustCompile(`^(\[[^\[\]\x00-\x1f\x7f]+\])+[^\x00-\x1f\x7f]+$`),
}

// CheckKey returns an error where a settings database of Linux takes no key of this name, or where there is no such
// database.
func CheckKey(store, key string) error {
	names, ok := keyNames[store]
	if !ok {
		return fmt.Errorf("%s is no settings database of Linux", strconv.Quote(store))
	}
	if !names.MatchString(key) {
		return fmt.Errorf("%s takes no key named %s", store, strconv.Quote(key))
	}
	return nil
}
