# `datapackage.json` beside the CSV files, as the open standard Data Package has it
# (Table Schema 2, of which readers of the first version pass over what they do not know).

format_datapackage <- new_format(
  help = paste0(
    "`datapackage.json` beside the files of `csv`: types, constraints, categories, missing ",
    "values, keys (Data Package, Table Schema)"
  ),
  cannot = "how derived values were made, other than in words; the rank of missing reasons",
  files = function(edition) "datapackage.json",
  needs = "csv",
  write = function(edition, folder) write_record(
    package_of(edition, folder), file.path(folder, "datapackage.json")
  ),
  back = function(edition, folder) {
    read <- jsonlite::read_json(file.path(folder, "datapackage.json"))
    fields <- read$resources[[1]]$schema$fields
    names <- vapply(fields, `[[`, "", "name")
    list(
      names = setdiff(names, paste0(edition$names, ".gap")),
      labels = vapply(fields, function(field) paste0(field$title, ""),
        "")[names %in% edition$names],
      codes_of = function(name) {
        categories <- fields[[match(name, names)]]$categories
        if (!is.null(categories)) vapply(
          categories, function(category) paste0(category$label, ""), "")
      }
    )
  }
)

package_of <- function(edition, folder) {
  facts <- edition$study$book$study
  without_null(list(
    profile = "tabular-data-package",
    name = package_name(edition), title = facts$title, description = facts$notes,
    licenses = if (!is.null(facts$licence)) list(list(name = facts$licence)),
    sources = if (!is.null(facts$source)) list(list(title = facts$source)),
    contributors = if (!is.null(facts$producer)) list(list(title = facts$producer)),
    resources = package_resources(edition, folder)
  ))
}

without_null <- function(parts) Filter(Negate(is.null), parts)

package_resources <- function(edition, folder) {
  keys <- intersect(c("wave", "respondent", "row"), names(edition$records))
  own <- edition_key(edition)
  to_variables <- list(list(fields = list("variable"), reference = list(
    resource = "variables", fields = list("variable")
  )))
  to_data <- if (length(own) > 0) list(list(
    fields = as.list(keys), reference = list(resource = "analysis", fields = as.list(own))
  ))
  list(
    package_resource(
      folder, "analysis.csv", "The data", package_fields(edition), own,
      missing = c("", common_missing(edition))
    ),
    package_resource(
      folder, "gaps.csv", "The code of the missing reason in each gap of the same records",
      gap_fields(edition), if (!identical(keys, "wave")) keys, to_data
    ),
    package_resource(
      folder, "variables.csv", "The variables", plain_fields(describe_variables(edition)),
      "variable"
    ),
    package_resource(
      folder, "codes.csv", "Codes and labels", plain_fields(describe_codes(edition)),
      c("variable", "code"), to_variables
    ),
    package_resource(
      folder, "missing.csv", "Missing reasons", plain_fields(describe_missing(edition)), "reason"
    )
  )
}

package_resource <- function(folder, file, title, fields, key, foreign = NULL, missing = "") {
  path <- file.path(folder, file)
  list(
    name = sub("[.]csv$", "", file), path = file, title = title,
    profile = "tabular-data-resource", format = "csv", mediatype = "text/csv",
    encoding = "utf-8", bytes = file.size(path), hash = paste0("sha256:", sha256_of(path)),
    schema = without_null(list(
      fields = fields, primaryKey = if (length(key) > 0) as.list(unname(key)),
      foreignKeys = foreign, missingValues = as.list(missing)
    ))
  )
}

sha256_of <- function(path) {
  con <- file(path, "rb")
  on.exit(close(con))
  as.character(openssl::sha256(con))
}

# Small letters, digits, points and dashes only.
package_name <- function(edition) {
  said <- edition$study$book$study$id
  text <- tolower_ascii(paste0(if (is.null(said)) "study" else said, "-", edition$release$name))
  gsub("^[^a-z0-9]+|[^a-z0-9]+$", "", gsub("[^a-z0-9._-]+", "-", text))
}

# What stands for gaps in every column alike, where no answer can be taken for it.
common_missing <- function(edition) {
  gaps <- edition$release$gaps
  if (!gaps %in% c("codes", "labels")) return(character())
  texts <- reason_texts(edition$study$book, gaps)
  answers <- unlist(lapply(edition$names, function(name) {
    value <- edition_column(edition, name, "empty")
    unique(if (is.factor(value)) levels(value) else csv_column(unique(value)))
  }))
  if (any(texts %in% as.character(answers))) character() else stats::na.omit(texts)
}

package_fields <- function(edition) {
  fields <- list()
  gaps <- edition$release$gaps
  own <- gaps %in% c("codes", "labels") && length(common_missing(edition)) == 0
  for (name in edition$names) {
    field <- package_field(edition, name)
    reason <- edition_values(edition, name)$reason
    if (own) field$missingValues <- as.list(c("", reason_texts(
      edition$study$book, gaps
    )[sort(unique(as.integer(reason)))]))
    fields <- c(fields, list(field))
    if (gaps == "beside" && !is.null(reason)) fields <- c(fields, list(list(
      name = paste0(name, ".gap"), type = "string", title = paste0(
        field$title, ": why it is a gap"
      )
    )))
  }
  fields
}

package_field <- function(edition, name) {
  variable <- edition_variable(edition, name)
  labelled <- edition$release$values == "labels"
  codes <- if (has_labels(variable)) released_codes(variable, edition_values(edition, name)$value)
  text <- !is.null(codes) && (labelled || !is_coded(variable))
  type <- if (text || variable$storage == "text") "string" else if (is_coded(variable)) "integer"
    else if (is_date(variable)) variable$level else "number"
  shown <- if (!is.null(codes)) (if (labelled) codes$label else codes$code)
  required <- is.null(edition_values(edition, name)$reason) && edition$release$gaps != "labels"
  bound <- function(side) if (type %in% c("integer", "number") && is.null(codes)) {
    end <- variable$range[side]
    if (length(end) == 1 && is.finite(end)) end
  }
  constraints <- without_null(list(
    required = if (required) TRUE, minimum = bound(1), maximum = bound(2),
    enum = if (!is.null(codes)) as.list(shown)
  ))
  without_null(list(
    name = name, type = type, title = paste0(variable$label, ""),
    description = variable$question, format = if (type == "datetime") "any",
    constraints = if (length(constraints) > 0) constraints,
    categories = if (!is.null(codes)) lapply(seq_along(shown), function(k) list(
      value = shown[k], label = codes$label[k]
    )),
    categoriesOrdered = if (!is.null(codes) && variable$level %in% ordered_levels) TRUE
  ))
}

gap_fields <- function(edition) lapply(names(edition_gaps(edition)), function(name) {
  text <- name %in% c("wave", "respondent", "export", "response")
  list(name = name, type = if (text) "string" else "integer")
})

plain_fields <- function(table) lapply(names(table), function(name) list(
  name = name, type = if (is.integer(table[[name]])) "integer" else "string"
))
