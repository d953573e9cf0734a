"""The Coverage view of the Practice stage."""
