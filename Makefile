# `make demo` and `make test` install what is missing, compile and install the
# package where its sources are newer, and run.

SOURCES := DESCRIPTION NAMESPACE $(wildcard R/*.R src/*.cpp src/*.h src/Makevars exec/*) $(shell find inst -type f)
DEMO := choirs

# Large pages of memory, where the system has them, as the command itself asks for.
export GLIBC_TUNABLES ?= glibc.malloc.hugetlb=1

all: .build/installed docs/reference.html

.build/packages: DESCRIPTION tools/setup.R
	@mkdir -p .build
	@Rscript tools/setup.R Imports LinkingTo
	@touch $@

.build/test-packages: .build/packages
	@Rscript tools/setup.R Suggests
	@touch $@

.build/installed: .build/packages $(SOURCES)
	@echo "Installing the package mavik ..."
	@Rscript tools/install.R > .build/install.log 2>&1 || { cat .build/install.log; exit 1; }
	@touch $@

# The language as a page, from the tables by which codebooks are checked.
docs/reference.html: .build/installed
	@./mavik reference --html $@ --replace > .build/reference.log || { cat .build/reference.log; exit 1; }

# The guides as plain HTML, each run on the demo.
docs: all .build/test-packages
	@Rscript tools/docs.R
	@echo "The guides stand in docs/index.html"

demo: all
	@./mavik demo $(DEMO)
	@echo
	@./mavik build $(DEMO)
	@echo
	@[ -f .build/demo.secret ] || ./mavik release --new-secret .build/demo.secret > /dev/null
	@./mavik release --project $(DEMO) --secret .build/demo.secret
	@./mavik align autumn $(DEMO)/raw/autumn.xlsx --project $(DEMO) --dry-run
	@echo
	@./mavik demo $(DEMO)-autumn --waves 2
	@echo
	@./mavik build $(DEMO)-autumn
	@echo
	@./mavik view $(DEMO) --replace

test: all .build/test-packages
	@Rscript tools/locales.R
	@MAVIK_SOURCE="$(CURDIR)" Rscript tools/test.R

# The same with all cases that are drawn at random, of which `make test` tries a twelfth.
thorough: all .build/test-packages
	@Rscript tools/locales.R
	@MAVIK_SOURCE="$(CURDIR)" MAVIK_THOROUGH=yes Rscript tools/test.R

check: all .build/test-packages
	@Rscript tools/setup.R Suggests --all
	@Rscript tools/check.R

# A Slurm of one node on this machine, for the test of a cluster's jobs; needs root.
slurm: all .build/test-packages
	@DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends slurm-wlm munge > /dev/null
	@MAVIK_SOURCE="$(CURDIR)" MAVIK_SLURM=yes Rscript tools/test.R cluster

# Releases of the demo, read by pandas, the standards' own packages and LibreOffice.
judges: all
	@Rscript tools/setup.R Suggests --all
	@Rscript tools/judges.R

document:
	@Rscript -e 'Rcpp::compileAttributes(".")'
	@$(MAKE) --no-print-directory .build/installed
	@Rscript -e 'roxygen2::roxygenise(load_code = "installed")'

bench: all
	@Rscript bench/build.R
	@Rscript bench/look.R
	@Rscript bench/checks.R
	@Rscript bench/trace.R
	@Rscript bench/split.R
	@Rscript bench/scales.R
	@Rscript bench/waves.R
	@Rscript bench/broad.R
	@Rscript bench/draft.R
	@Rscript bench/align.R
	@Rscript bench/tables.R
	@Rscript bench/release.R

# Ten thousand random projects, built and judged one value at a time.
fuzz: all
	@Rscript tools/fuzz.R

# The reading kernel on a hundred thousand files with slips, under sanitizers.
sanitize: all
	@rm -rf .build/sanitize-demo && ./mavik demo .build/sanitize-demo > /dev/null
	@$${CXX:-g++} -std=c++17 -O1 -g -fsanitize=address,undefined -fno-sanitize-recover=all -pthread tools/sanitize.cpp -o .build/sanitize
	@.build/sanitize .build/sanitize-demo/raw/spring.csv 100000 .build/sanitize.csv
	@$${CXX:-g++} -std=c++17 -O1 -g -U__SSE2__ -fsanitize=address,undefined -fno-sanitize-recover=all -pthread tools/sanitize.cpp -o .build/sanitize
	@.build/sanitize .build/sanitize-demo/raw/spring.csv 20000 .build/sanitize.csv

clean:
	rm -rf .build choirs choirs-autumn mavik.Rcheck mavik_*.tar.gz src/*.o src/*.so

.PHONY: all demo docs test thorough check slurm judges document bench fuzz sanitize clean
