// Package reconcile proves two ledgers against each other: items that cancel are settled, in passes from the surest evidence to the weakest, each with its reason; what is left is the work.
//
// Terms: an item is a line of a ledger, with a date, an amount, references, a text and a currency; a set is the items of both sides that are settled together; what is equally good in several ways is
// offered, not settled. Amounts are exact: whole numbers of the smallest part in use.
//
// Methods: the best pairing overall (H. Kuhn, Naval Research Logistics Quarterly 2, 1955; J. Munkres 1957) by nearness of date and text; bounded subset sums; transposed digits and decimal slides as
// accountants look for them (common practice).
package reconcile
