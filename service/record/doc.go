// Package record has the database rows that several subjects use. What the API says of a row is what its Wire method
// returns: a column is not public just because it exists.
package record
