# The contract of a way. Each `way-*.R` file holds one object `way_<key>`, made by
# `new_way()`; what it does not say takes these defaults. `inputs` hold a column for
# each of `reads` and `uses`: a list of `value` and `reason`, the number of a missing
# reason or 0 (NULL where there is no gap). `rows` has `n`, `key` and `wave`. A way is
# row-local. A column may carry `ledger` and `findings` of its own (`carrying()`).

new_way <- function(
    # one line and an entry of a codebook, for the reference
    help = "", example = "",
    # the field that stands at the way's own key, and further keys that go with it
    value, beside = list(),
    # TRUE where no codebook names it: it comes with another entry
    internal = FALSE,
    # (entry) `list(entry, companions, members)`: the entry as it goes on, the entries
    # that come right after it, and those of them that its name stands for as a block
    spread = NULL,
    # (variable) the raw columns it reads, by role; (variable, book) the variables it is made of
    reads = function(variable) NULL, uses = function(variable, book) character(),
    # (variable, book) the variable with level, storage, codes, range
    makes = function(variable, book) variable,
    # (variable, book, say) problems against the rest of the codebook
    check = function(variable, book, say) NULL,
    # (cells, variable, role, export, book, kinds) in place of decode_cells; (variable, column,
    # inputs, book) the column read from cells, once what it uses is settled
    decode = NULL, refine = NULL,
    # (variable, inputs, book, rows) a column for whole columns
    compute,
    # (variable, book) how it was made, in words; (variable, inputs, book) one record's value
    # worked out in numbers; why a value can be lacking where no input is
    sentence, explain = NULL, empty_where = "it cannot be worked out from these values",
    # TRUE where every record has it; (variable) whether a sheet of corrections may name it
    everybody = FALSE, correctable = function(variable) FALSE,
    # what its cells hold: one "answer" each, "several", or the "words" of a write-in
    holds = "",
    # (variable) whose answer decides whether it stands; the question it is an option of; the text
    # to which a sheet gives it codes; the variable of which it has to place every code
    follows = function(variable) NULL, option_of = function(variable) NULL,
    text_coded = function(variable) NULL, places_codes_of = function(variable) NULL,
    # (variable, source, coarser) TRUE where its values tell no more of a source than
    # `coarser(values)`; NULL where that cannot be said
    no_finer = NULL,
    # (variable) what it says of write-ins; the sheet it reads; which of the `lookups` it asks
    write_in = function(variable) NULL, sheet = function(variable) NULL,
    asks = function(variable) NULL,
    # (variable, kind) where in the codebook a cell of that kind is told
    told_at = function(variable, kind) where_in(variable, key_of_kind(variable, kind)),
    # what old by new shows: `sources`, `none`, the `range`, `reversed` items, `gaps`, a `lookup`
    proof = "sources") as.list(environment())

is_key <- function(variable) variable$way == "is" && identical(variable$settings, "key")
is_wave <- function(variable) variable$way == "is" && identical(variable$settings, "wave")
# The key by which a cell of a kind was read.
key_of_kind <- function(variable, kind) {
  if (kind == "write_in") return("other")
  if (length(variable$variants) == 0 && !is.null(variable$spans)) "spans" else "variants"
}

holds_one <- function(variable) way_of(variable)$holds == "answer"
holds_several <- function(variable) way_of(variable)$holds == "several"
holds_words <- function(variable) way_of(variable)$holds == "words"

parent_of <- function(variable) way_of(variable)$option_of(variable)

text_coded <- function(variable) way_of(variable)$text_coded(variable)

is_score <- function(variable) variable$way == "score"

way_of <- function(variable) ways()[[variable$way]]

ways <- function() parts_named("way_")

# Those that a codebook can name.
open_ways <- function() once_a_session("open ways", function() Filter(
  function(way) !isTRUE(way$internal), ways()
))

is_disposition <- function(variable) variable$way == "is" && identical(
  variable$settings, "disposition"
)

takes_earlier <- function(variable) variable$way == "lookup" && !is.null(variable$settings$wave)
