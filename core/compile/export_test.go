package compile

// Registry is the list of mechanisms, for tests.
var Registry = registry
