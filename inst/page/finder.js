(function () {
  var box = document.getElementById("find"), told = document.getElementById("told");
  var rows = Array.prototype.slice.call(document.querySelectorAll(".finder li"));
  function plain(text) { return text.toLowerCase().normalize("NFD").replace(/[\u0300-\u036f]/g, ""); }
  var one = box.getAttribute("data-one") || "variable", many = box.getAttribute("data-many") || "variables";
  var texts = rows.map(function (row) { return plain(row.textContent + " " + (row.getAttribute("data-more") || "")); });
  function find() {
    var words = plain(box.value).split(/\s+/).filter(Boolean), shown = 0;
    rows.forEach(function (row, at) {
      var fits = words.every(function (word) { return texts[at].indexOf(word) >= 0; });
      row.hidden = !fits;
      if (fits) shown += 1;
    });
    told.textContent = shown + " of " + rows.length + " " + (rows.length === 1 ? one : many);
  }
  box.addEventListener("input", find);
  box.addEventListener("keydown", function (event) {
    if (event.key === "Escape") { box.value = ""; find(); }
    if (event.key === "Enter") {
      var first = rows.filter(function (row) { return !row.hidden; })[0];
      if (first) first.querySelector("a").click();
    }
  });
  find();
})();
