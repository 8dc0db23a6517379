# The text of a condition becomes R's syntax tree and nothing more: it is looked
# through node by node (expr-check) and worked out by our own hands
# (expr-evaluate); nothing of it is ever run.

expr_limits <- list(characters = 2000L, depth = 40L)

# A checked expression, `list(text, tree, uses)`, or NULL after its problem was
# told. `wants` is "truth" (a condition) or "number" (a formula); `open` are the
# subsets that are being read.
compile_expression <- function(
  text, book, path, say, wants = "truth", open = character()
) {
  tryCatch({
    scope <- list(book = book, text = text, depth = 0L, open = open)
    tree <- expr_node(parse_expression(text), scope)
    if (tree$type != wants) {
      expr_problem(
        NULL,
        if (wants == "truth")
          "says neither true nor false: compare something, `member == \"Yes\"`" else
            "is not a number"
      )
    }
    list(text = text, tree = tree, uses = expr_uses(tree))
  }, mavik_expr_problem = function(p) {
    if (nzchar(conditionMessage(p))) say(
      path,
      paste0(
        "in `", shorten_text(text_squeeze(text), 80), "`", expr_place(text, p$at), ": ",
        conditionMessage(p)
      )
    )
    NULL
  })
}

# `place` is the piece of the text that is wrong, or the number of its character.
expr_problem <- function(place, ...) stop_mavik("expr_problem", ..., facts = list(at = place))

# A variable that has a problem of its own, which is told already.
expr_untold <- function() expr_problem(NULL, "")

expr_place <- function(text, place) {
  if (is.character(place)) place <- stringi::stri_locate_first_fixed(text, place)[1]
  if (is.null(place) || is.na(place)) "" else paste(" at character", place)
}

parse_expression <- function(text) {
  if (nchar(text) > expr_limits$characters) expr_problem(
    NULL, "is longer than ", grouped(expr_limits$characters),
    " characters: make variables of its parts"
  )
  # A locale that lacks a letter must not change it.
  plain <- ascii_only(text)
  parsed <- tryCatch(
    parse(text = plain, keep.source = FALSE),
    error = function(e) expr_syntax(conditionMessage(e), text, plain)
  )
  if (length(parsed) != 1) expr_problem(
    NULL,
    if (length(parsed) == 0) "is empty" else "is more than one condition: join them with `&` or `|`"
  )
  parsed[[1]]
}

# Marks that a text program puts in the place of those of the keyboard.
typographic <- c(
  "\u2212" = "-", "\u2013" = "-", "\u2014" = "-", "\u201c" = "\"", "\u201d" = "\"", "\u201e" = "\"",
  "\u2018" = "'", "\u2019" = "'",
  "\u00d7" = "*", "\u00f7" = "/", "\u2264" = "<=", "\u2265" = ">=", "\u2260" = "!="
)

# The first of them outside a text in straight quotes.
typographic_mark <- function(text) {
  blank <- function(part) strrep(" ", nchar(part))
  quoted <- stringi::stri_extract_all_regex(text, "\"[^\"]*\"|'[^']*'")[[1]]
  for (part in quoted[!is.na(quoted)]) text <- stringi::stri_replace_first_fixed(text, part,
    blank(part))
  signs <- stringi::stri_locate_first_regex(
    text, paste0("[", paste(names(typographic), collapse = ""),
    "]"))[1]
  if (is.na(signs)) NULL else list(at = signs, mark = substr(text, signs, signs))
}

expr_syntax <- function(message, text, plain) {
  odd <- typographic_mark(text)
  if (!is.null(odd)) expr_problem(as.integer(odd$at), "`", odd$mark, "` is a typographic mark",
    if (typographic[[odd$mark]] == "-") " (a minus or dash)", ": write `", typographic[[odd$mark]],
    "`")
  where <- stringi::stri_match_first_regex(message, "<text>:(\\d+):(\\d+)")
  line <- as.integer(where[1, 2])
  line_break <- if (is.na(line) || plain != text) NULL else sum(
    nchar(strsplit(text, "\n", fixed = TRUE)[[1]][seq_len(line - 1)]) + 1L
  ) + as.integer(where[1, 3])
  expr_problem(line_break, "cannot be read",
    if (stringi::stri_detect_regex(text, "[^=!<>]=[^=]")) ": equality is written `==`"
    else if (grepl("[<>]=?[^&|]*[<>]", text))
      ": two bounds are two comparisons, `x > 0 & x < 10`" else
        ": look for a bracket, quote or operator too many or missing")
}

expr_uses <- function(tree) unique(c(tree$name, unlist(lapply(tree$args, expr_uses))))

ascii_only <- function(text) {
  if (stringi::stri_enc_isascii(text)) return(text)
  letters <- strsplit(enc2utf8(text), "")[[1]]
  points <- utf8ToInt(enc2utf8(text))
  paste0(ifelse(points > 127, sprintf("\\U%08x", points), letters), collapse = "")
}
