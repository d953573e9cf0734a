"""The Listen stage: takes recorded or opened, and what is heard of them."""
