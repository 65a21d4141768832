package compile

import "slices"

// Registry is the list of mechanisms, for tests.
func Registry() []Target { return registry }

// Register adds a mechanism to the list.
func Register(t Target) { registry = append(slices.Clone(registry), t) }

// SetRegistry puts the list back.
func SetRegistry(list []Target) { registry = list }
