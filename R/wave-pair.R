# A question of the codebook and the column of the new wave that it is found in.

new_pair <- function(
    # the question: its variable, columns and wordings in earlier waves
    slot,
    # how it was found ("" while it is open), by which rule and on what grounds
    match = "", rule = "", grounds = "",
    # the column of the new file, NA where there is none
    column = NA_character_,
    # other columns that it could be
    candidates = NULL,
    # how its cells read: the column's cells, how well they fit, what differs, which way
    # the codes run, and what the codebook would say
    cells = NULL, fit = NULL, changes = NULL, direction = NULL, overlay = NULL,
    # where labels became bare numbers: what these can stand for, the likeliest first
    assignments = NULL) {
  said_fields(environment())
}
