# Writes the skeleton of a new reader, way, rule, screen, output, format or command. Run from the
# package's folder: Rscript tools/new.R way doubled

given <- commandArgs(TRUE)
usage <- "Rscript tools/new.R reader|way|rule|screen|output|format|command NAME"
if (length(given) != 2 || !grepl("^[a-z][a-z_]*$", given[2])) stop("write ", usage, call. = FALSE)
kind <- given[1]
name <- given[2]

field_lines <- c(
  "  help = \"what it does, in a line\",",
  "  example = \"NAME_OF_ENTRY: {KEY: years}\",",
  "  value = field(\"text\", \"what stands at its key\", \"years\"),"
)
skeletons <- list(
  reader = c(
    "reader_KEY <- new_reader(", "  knows = function(source, first, entries) begins_with(first, 0x00),",
    "  read = function(source, options, shown) {",
    "    frame <- data.frame(id = character())", "    reader_frame$read(frame, options, shown)", "  }", ")"
  ),
  way = c(
    "way_KEY <- new_way(", sub("KEY: years", "label: Twice, KEY: years", field_lines, fixed = TRUE),
    "  uses = function(variable, book) variable$settings,",
    "  makes = function(variable, book) {",
    "    if (is.null(variable$level)) variable$level <- \"ratio\"",
    "    variable$storage <- \"number\"",
    "    variable",
    "  },",
    "  check = function(variable, book, say) NULL,",
    "  compute = function(variable, inputs, book, rows) {",
    "    new_column(inputs[[1]]$value, reason_or_none(inputs[[1]]))",
    "  },",
    "  sentence = function(variable, book) paste0(\"Made from \", variable$settings, \".\")", ")"
  ),
  rule = c(
    "rule_KEY <- new_rule(", field_lines,
    "  makes = function(rule, book, say) {", "    rule$reads <- rule$settings", "    rule", "  },",
    "  compute = function(rule, inputs, book, rows) list(rows = which(inputs[[1]]$value < 0)),",
    "  sentence = function(rule, book) paste0(\"`\", rule$settings, \"` must hold\")", ")"
  ),
  screen = c(
    "screen_KEY <- new_screen(", field_lines,
    "  makes = function(screen, book, say) {", "    screen$reads <- screen$settings",
    "    screen", "  },",
    "  compute = function(screen, inputs, state, book, n) {",
    "    list(rows = which(inputs[[1]]$value < 0))", "  },",
    "  sentence = function(screen, book) paste0(\"those with `\", screen$settings, \"`\")", ")"
  ),
  output = c(
    "output_KEY <- list(", "  file = \"KEY.csv\",", "  help = \"what it holds, in a line\",",
    "  columns = c(key = \"the key\"),",
    "  write = function(study, path) {",
    "    write_csv(list(key = retained_of(study$records$key, study)), path)", "  }", ")"
  ),
  format = c(
    "format_KEY <- new_format(", "  help = \"what it holds, in a line\", cannot = \"what it cannot carry\",",
    "  files = function(edition) \"KEY.txt\",",
    "  write = function(edition, folder) write_checked(",
    "    line_bytes(c(edition$n, edition$names)), file.path(folder, \"KEY.txt\")",
    "  ),", "  back = function(edition, folder) {",
    "    lines <- readLines(file.path(folder, \"KEY.txt\"))",
    "    list(n = as.integer(lines[1]), names = lines[-1])", "  }", ")"
  ),
  command = c(
    "command_KEY <- list(", "  place = 50, summary = \"What it does, in a line\",",
    "  arguments = \"[PROJECT]\", most = 1, example = \"mavik KEY choirs\",",
    "  options = function() list(flag_option(\"--json\", \"print it as JSON\")),",
    "  json = list(\"KEY PROJECT\" = c(records = \"how many records\")),",
    "  run = function(given) {",
    "    study <- build_study(if (length(given$args) == 0) \".\" else given$args)",
    "    found <- list(records = nrow(study$data))",
    "    show_lines(if (given$json) json_of(found) else paste(found$records, \"records\"))",
    "    0L", "  }", ")"
  )
)
tests <- c(
  reader = "add a source to \"every reader keeps the contract\" in tests/testthat/test-layouts.R",
  way = "add an example to `way_examples` in tests/testthat/helper-ways.R, and what it does to test-ways.R",
  rule = "its own example is tried by the harness; what it does goes into tests/testthat/test-checks.R",
  screen = "its own example is tried by the harness; what it does goes into tests/testthat/test-checks.R",
  output = "the harness writes it twice; what it holds goes into tests/testthat/test-write.R",
  format = "the harness writes it and reads it back; add a reader of others to helper-release.R",
  command = "the harness tries its help; add a call of its JSON to tests/testthat/test-reference.R"
)
if (!kind %in% names(skeletons)) stop("write ", usage, call. = FALSE)
prefix <- c(reader = "read", output = "write", format = "write-as", command = "cli")[kind]
file <- file.path("R", paste0(if (is.na(prefix)) kind else prefix, "-", name, ".R"))
if (file.exists(file)) stop(file, " stands there already", call. = FALSE)
lines <- gsub("NAME_OF_ENTRY", paste0("a_", name), gsub("KEY", name, skeletons[[kind]]))
writeLines(c(paste("#", "What it is for, and why it is made like this."), "", lines), file)
cat("Written: ", file, "\nTest: ", tests[[kind]], "\nThen: make document\n", sep = "")
