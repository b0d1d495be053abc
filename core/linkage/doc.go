// Package linkage finds the records, within one table or across several, that are one thing, as the literature has it: comparison
// vectors of agreement levels, weights in bits from m and u probabilities (I. Fellegi and A. Sunter, JASA 64, 1969), m by
// expectation maximisation without labels (A. Dempster, N. Laird and D. Rubin 1977; M. Jaro, JASA 84, 1989), blocking
// before comparison (P. Christen, Data Matching, 2012), and clusters of links.
//
// Terms: an attribute is a column of each table that is compared; a level says how far two values of it agree, 0 for not at
// all; a pattern is the levels of all attributes for a pair; the weight of a level is log2(m/u), that of a pair the sum; a value
// that is missing or blank is neither agreement nor disagreement. m is the probability of a level among pairs that are one thing,
// u among pairs drawn at random.
//
// Nothing here depends on chance: where pairs are drawn at random, the seed is fixed.
package linkage
