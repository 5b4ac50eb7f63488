// Package closed is for closed sets: string types whose values are all named in one
// table. What depends on a set (the schema, the interface, arrays with a place for
// each member) is derived from that table.
package closed

// A Set is a string type of such values. Values returns them in the order of the table;
// it does not depend on the receiver, and the list must not be altered.
type Set interface{ Values() []string }

// Strings returns values as text.
func Strings[T ~string](values ...T) []string {
	out := make([]string, len(values))
	for i, v := range values {
		out[i] = string(v)
	}
	return out
}

// Column returns one column of a table as text: that of the set's values.
func Column[Row any, T ~string](table []Row, value func(Row) T) []string {
	out := make([]string, len(table))
	for i, row := range table {
		out[i] = string(value(row))
	}
	return out
}
