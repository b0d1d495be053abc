// Package authority ties values to the entries of a register of known things: for each distinct value of a column, with those that testify beside it, the entries it may
// name, weighed as the records of a linkage are (package linkage) and ranked, and a rule under which sure ones are taken.
//
// Terms: what is asked is a combination of a name and its testimony; an entry has an identifier, a standard name, other names, and properties; a candidate is an entry that may be
// meant. A value is identified, undecided, or not listed.
package authority
