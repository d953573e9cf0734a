"""From riff to plan.

`planning.plan_riff` is the whole way: a *task* (what the music asks of the hands), its *costs*, a *search*, and
what is *told* of the plan. `replanner` does the same for a riff that is planned again and again; `compare` under
every school, `families` in every region of the neck. A `plan` holds everything that it was made from; `request`
and `limits` are what is asked, `ways` other ways to play a note, `locking` writes them into the riff. It never
reads files and knows no window.
"""
