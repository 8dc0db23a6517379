# Parquet, where the package nanoparquet is installed.

reader_parquet <- new_reader(
  knows = function(source, first, entries) begins_with(first, 0x50, 0x41, 0x52, 0x31),
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
