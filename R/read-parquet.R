# Parquet, where the package nanoparquet is installed.

reader_parquet <- list(
  read = function(source, options, shown) {
    if (!requireNamespace("nanoparquet", quietly = TRUE)) {
      stop_read(
        shown, NULL,
        "Parquet files need the R package nanoparquet: install.packages(\"nanoparquet\")"
      )
    }
    table <- tryCatch(
      nanoparquet::read_parquet(source),
      error = function(e) stop_read(
        shown, NULL, "the Parquet file cannot be read: ", conditionMessage(e)
      )
    )
    reader_frame$read(as.data.frame(table), options, shown)
  }
)
