# A variable as the codebook has it: what its entry says, and what its way makes of that.

new_variable <- function(
    # its name; the block it is an item of, and the block's stem
    name, block = NULL, stem = NULL,
    # where its entry and each of its keys stand, the keys that it says, whether something is wrong
    # with them, the paths of what could not be read, and problems that its way is to tell
    path = NULL, origin = NULL, said = NULL, failed = NULL, unread = NULL, problems = NULL,
    # its way and the settings of it; the entry that it comes along with
    way = NULL, settings = NULL, with = NULL,
    # the texts of its documentation; the block's question, asked once of all items
    label = NULL, question = NULL, asked = NULL, note = NULL,
    # what it measures: level, unit, decimals shown
    level = NULL, unit = NULL, decimals = NULL,
    # whether it is in the analysis file; whether its answers are never shown
    kept = NULL, private = NULL,
    # the condition under which it was asked, checked
    universe = NULL,
    # how a number typed as a span counts
    spans = NULL,
    # what its values can be: how they are stored (coded, number, text, date, set), codes
    # with labels and the list they come from, range, the range that a score can have
    storage = NULL, codes = NULL, list = NULL, range = NULL, possible = NULL,
    # what cells mean: what the file holds, the column's other export, written forms,
    # what the file's codes stand for, missing forms, patterns of dates, write-ins
    cells = NULL, from = NULL, variants = NULL, delivered = NULL, missing = NULL,
    dates = NULL, other = NULL, write_ins = NULL,
    # the options of a question with several answers; whether it only carries them
    options = NULL, carrier = NULL,
    # texts that it can have, with labels; answers as people coded them
    texts = NULL, coding = NULL,
    # of conditions and formulas, checked
    branches = NULL, expression = NULL,
    # what differs in a wave or an export: as said, as whole variables, and which holds
    # in which export
    by_wave = NULL, by_export = NULL, versions = NULL, version_of = NULL, exports = NULL,
    # of a version: that the question was not asked
    absent = NULL) {
  said_fields(environment())
}
