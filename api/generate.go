// Package api is the Go side of openapi.yaml: the types and the interface that the
// server implements. It is generated; change openapi.yaml and run go generate.
package api

//go:generate sh -c "cd .. && go tool oapi-codegen -config api/config.yaml api/openapi.yaml"
