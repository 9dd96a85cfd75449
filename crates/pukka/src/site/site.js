// Sorting and searching. The list is whole without it.
(function () {
  "use strict";
  var table = document.getElementById("shelf");
  if (!table) return;
  var body = table.tBodies[0];
  var rows = Array.prototype.slice.call(body.rows);
  var find = document.getElementById("find");
  var found = document.getElementById("found");
  find.closest("p").hidden = false;

  function search() {
    var words = find.value.toLowerCase().split(/\s+/).filter(Boolean);
    var shown = 0;
    rows.forEach(function (row) {
      var text = row.textContent.toLowerCase();
      row.hidden = !words.every(function (word) {
        return text.indexOf(word) >= 0;
      });
      if (!row.hidden) shown += 1;
    });
    found.textContent = words.length === 0 ? "" : shown + " of " + rows.length;
  }
  find.addEventListener("input", search);

  Array.prototype.forEach.call(table.tHead.rows[0].cells, function (head, column) {
    var button = document.createElement("button");
    button.type = "button";
    button.textContent = head.textContent;
    head.textContent = "";
    head.appendChild(button);
    button.addEventListener("click", function () {
      var down = head.getAttribute("aria-sort") !== "descending";
      Array.prototype.forEach.call(table.tHead.rows[0].cells, function (other) {
        other.removeAttribute("aria-sort");
      });
      head.setAttribute("aria-sort", down ? "descending" : "ascending");
      var number = head.dataset.sort === "number";
      function key(row) {
        var cell = row.cells[column];
        if (!number) return cell.textContent.toLowerCase();
        return cell.dataset.key === "" ? -Infinity : Number(cell.dataset.key);
      }
      rows.sort(function (a, b) {
        var x = key(a);
        var y = key(b);
        var order = x < y ? -1 : x > y ? 1 : 0;
        return down ? -order : order;
      });
      rows.forEach(function (row) {
        body.appendChild(row);
      });
    });
  });
})();
