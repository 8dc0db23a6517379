"""Loads the data that lie beside this file, with labels, categories in their order and the
reason of each gap. It needs pandas, and nothing has to be edited:

    import importlib.util as util
    spec = util.spec_from_file_location("load", "FOLDER/load.py")
    load = util.module_from_spec(spec); spec.loader.exec_module(load)
    load.analysis, load.reasons

or, in a notebook, `%run FOLDER/load.py`. `analysis` holds the data (categories, ordered ones
where the codes have an order; `analysis.attrs["labels"]` the label of each variable), `reasons`
the same rows with the reason in each gap, `variables`, `codes` and `missing` what describes them.
"""

from pathlib import Path

import pandas as pd

_folder = Path(__file__).resolve().parent


def _read(file):
    return pd.read_csv(
        _folder / file, dtype=str, keep_default_na=False, na_filter=False,
        skip_blank_lines=False, encoding="utf-8",
    )


def _column(text, variable, own, gap):
    text = text.mask(gap | (text == ""))
    if len(own) > 0:
        known = own["label"] if variable["values"] == "labels" else own["code"]
        labels = text.map(dict(zip(known, own["label"])))
        return pd.Categorical(
            labels, categories=list(own["label"]), ordered=variable["level"] == "ordinal"
        )
    if variable["type"] in ("integer", "number"):
        return text.astype(float)
    if variable["type"] in ("date", "datetime"):
        return pd.to_datetime(text)
    return text.astype(object).where(text.notna(), None)


def _load():
    data, gaps = _read("analysis.csv"), _read("gaps.csv")
    variables, codes, missing = _read("variables.csv"), _read("codes.csv"), _read("missing.csv")
    reasons = gaps.copy()
    named = dict(zip(missing["code"], missing["label"]))
    with_gaps = set(variables["variable"][variables["gaps"] != "0"])
    for name in with_gaps:
        reasons[name] = pd.Categorical(gaps[name].map(named), categories=list(missing["label"]))
    columns = {}
    for _, variable in variables.iterrows():
        name = variable["variable"]
        gap = reasons[name].notna() if name in with_gaps else pd.Series(False, index=data.index)
        own = codes[codes["variable"] == name]
        columns[name] = _column(data[name], variable, own, gap)
    analysis = pd.DataFrame(columns, index=data.index)
    analysis.attrs["labels"] = dict(zip(variables["variable"], variables["label"]))
    for name in ("answered", "gaps"):
        variables[name] = variables[name].astype(int)
    missing["code"] = missing["code"].astype(int)
    return analysis, reasons, variables, codes, missing


analysis, reasons, variables, codes, missing = _load()
