// Package asking asks authorities that speak the W3C Community Group's reconciliation service API, version 0.2 (https://www.w3.org/community/reports/reconciliation/CG-FINAL-specs-0.2-20230410/): its manifest, batches of queries, and
// the properties of entries (data extension). Answers are held to limits, errors and "slow down" are tried again with growing pauses, and no address is reached but the
// one that was given: not by a redirect to another host, and no private address unless it was allowed.
package asking
