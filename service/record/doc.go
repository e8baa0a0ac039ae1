// Package record has the rows that several subjects work with, as the database gives them. What the API says of one is
// what its Wire method makes of it: a column is not public because it is there.
package record
