"""Pages of the reference, drawings as pictures, own references and opinions: parse, call, render."""
