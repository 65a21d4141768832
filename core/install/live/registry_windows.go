package live

import (
	"errors"
	"fmt"
	"strings"

	"golang.org/x/sys/windows/registry"

	"leitstand/core/change"
)

// roots are the parts of the registry that settings are in.
var roots = map[string]registry.Key{
	"HKEY_CURRENT_USER": registry.CURRENT_USER, "HKEY_LOCAL_MACHINE": registry.LOCAL_MACHINE,
}

// registryValue is a value of the registry by its key, a colon, and its name; nil for none.
func registryValue(key string) (change.Value, error) {
	path, name, _ := strings.Cut(key, ":")
	root, below, _ := strings.Cut(path, `\`)
	if _, known := roots[root]; !known {
		return nil, fmt.Errorf("%s is no part of the registry that is read", root)
	}
	k, err := registry.OpenKey(roots[root], below, registry.QUERY_VALUE)
	if errors.Is(err, registry.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	defer k.Close()
	text, kind, err := k.GetStringValue(name)
	switch {
	case err == nil:
		return change.Text(text), nil
	case errors.Is(err, registry.ErrNotExist):
		return nil, nil
	case errors.Is(err, registry.ErrUnexpectedType) && kind == registry.DWORD:
		number, _, err := k.GetIntegerValue(name)
		return change.Unsigned(number), err
	case errors.Is(err, registry.ErrUnexpectedType) && kind == registry.BINARY:
		data, _, err := k.GetBinaryValue(name)
		return change.Bytes(data), err
	}
	return nil, err
}
