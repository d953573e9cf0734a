"""The task: what the hands have to do, told from the riff alone.

`task.task_of` makes steps (notes to be played, `step`) and links (the time between them); the other modules tell
steps and links what the music says: what rings on, what comes back, what is a broken chord, a pedal, a run, which
style it is in. All of this comes from pitches and times, never from which places, fingers or strokes are written.
`state` is what both hands do at a step. It never asks what anything costs.
"""
