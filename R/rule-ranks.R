# Each rank once: no two items share one, none is skipped below the last that
# was given, none lies outside.

rule_ranks <- new_rule(
  help = "each rank once",
  example = "each_rank_once: {ranks: {of: ranks, from: 1, to: 3}}",
  value = map_field(list(
    of = field(
      "texts", "the ranked items: a block, or a list of variables", "ranks", required = TRUE
    ),
    from = field("whole", "the first rank", "1", default = 1L),
    to = field("whole", "the last rank", "3", required = TRUE)
  )),
  makes = function(rule, book, say) {
    path <- c(rule$path, "ranks")
    rule$reads <- spread_names(rule$settings$of, c(path, "of"), book, say)
    for (name in rule$reads) {
      if (book$variables[[name]]$storage == "text" || is_date(book$variables[[name]])) say(
        c(path, "of"),
        paste0("`", name, "` holds no ranks (level ", book$variables[[name]]$level, ")")
      )
    }
    if (rule$settings$to <= rule$settings$from) say(
      c(path, "to"), "the last rank must be above the first"
    )
    if (length(rule$reads) < 2) say(c(path, "of"), "needs at least two items")
    rule
  },
  compute = function(rule, inputs, book, rows) {
    ranks <- seq(rule$settings$from, rule$settings$to)
    given <- lapply(inputs[rule$items], function(column) match(column$value, ranks))
    outside <- Reduce(`|`,
      lapply(inputs[rule$items], function(column) !is.na(column$value) & !column$value %in% ranks))
    tie <- hole <- logical(rows$n)
    last <- do.call(pmax, c(unname(given), na.rm = TRUE))
    for (rank in seq_along(ranks)) {
      times <- Reduce(`+`, lapply(
        given, function(given_rank) !is.na(given_rank) & given_rank == rank))
      tie <- tie | times > 1
      hole <- hole | (times == 0 & !is.na(last) & last > rank)
    }
    counts <- c(
      "with a rank given twice" = sum(tie), "with a rank skipped" = sum(hole),
      "with something else than a rank" = sum(outside)
    )
    list(
      rows = which(tie | hole | outside),
      more = paste(grouped(counts[counts > 0]), names(counts)[counts > 0], collapse = ", ")
    )
  },
  sentence = function(rule, book) paste0(some_of(rule$items, 8), " must hold each rank from ",
    rule$settings$from, " to ", rule$settings$to, " once")
)
