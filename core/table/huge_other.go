//go:build !linux

package table

// huge is advice that only Linux takes.
func huge[T any](array []T) []T { return array }
