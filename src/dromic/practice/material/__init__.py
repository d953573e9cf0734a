"""Material to practise, made from formulas: scales, arpeggios, strings, rolls, walking lines."""
