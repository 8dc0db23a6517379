# Declared tables that show nothing.

audit_tables <- list(findings = function(study) table_findings(study))

# Tables of nobody: no respondent meets the condition, or none has a weight.
table_findings <- function(study) {
  findings <- lapply(study$book$declared, function(declared) {
    chosen <- table_records(study, declared$where, declared$weight)
    if (length(chosen$rows) > 0) return(NULL)
    weightless <- chosen$no_weight > 0
    new_finding(
      "warning", "table_empty", "", declared$title, 0L, integer(),
      path = paste(c("tables", declared$name, if (weightless) "weight" else if (
        !is.null(declared$where)
      ) "where"), collapse = " > "), message = if (weightless) paste0(
        "no respondent has a weight `", declared$weight, "` of 0 or more: the table is of nobody; ",
        "take another `weight`, or `none`"
      ) else paste0(
        "no respondent meets the condition: the table is of nobody; look at the condition with ",
        "`mavik check --where`, or take the table out"
      )
    )
  })
  Filter(Negate(is.null), unname(findings))
}
