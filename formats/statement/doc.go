// Package statement reads the statements of banks: camt.053 and camt.052/054 of ISO 20022 (XML), MT940 (SWIFT's text lines), and OFX (1 in SGML, 2 in XML). Each item becomes a row with its dates, a signed amount, the currency, references, the other party and
// what was said. Opening and closing balances are held against the items: where they do not follow from them it is told, with by how much and where it first breaks.
//
// Entities other than those of XML itself are refused, and nothing is fetched.
package statement
