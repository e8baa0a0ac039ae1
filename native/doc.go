// Package native has chips run what they translate as instructions of the processor at hand, by wazero's compiler.
// Whoever imports it has it, where there is such a compiler; the tag "interpreted" leaves it out. Nothing but speed
// depends on it.
package native
