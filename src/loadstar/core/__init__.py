"""The computation. No Django, no HTML, no input or output: a Plan goes in, an Analysis comes out."""
