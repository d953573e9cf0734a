"""Schools of picking, one module each; `dromic.schools.registry` finds them."""
