# Makes the demo's codebook of both waves: the spring codebook with all that
# aligning the autumn export proposes. Run from the package's folder, installed:
# Rscript data-raw/choirs-autumn.R
project <- tempfile()
mavik::demo_project(project)
found <- mavik::align_wave(project, "autumn", file.path(project, "raw/autumn.xlsx"), label = "Autumn 2026")
mavik::accept_alignment(found, found$lines$line)
dir.create("inst/choirs-autumn", showWarnings = FALSE)
file.copy(file.path(project, "choirs.yml"), "inst/choirs-autumn/choirs.yml", overwrite = TRUE)
