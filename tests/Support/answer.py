# What a client does to a workbook that was sent: openpyxl (Debian's python3-openpyxl) as the program it is opened and saved with.
# answer.py read FILE            sheets, titles, kinds of cells, lists of choices, as JSON
# answer.py edit FROM TO DEED…   deeds as JSON lists: ["set", sheet, reference, title, value, kind], ["first"], ["sort", sheet], …
import json
import sys
from datetime import datetime

import openpyxl


def find(sheet, reference, title):
    titles = [c.value for c in sheet[1]]
    known = titles.index("Reference") + 1
    for row in range(2, sheet.max_row + 1):
        if sheet.cell(row, known).value == reference:
            return sheet.cell(row, titles.index(title) + 1)
    raise SystemExit(f"no row {reference}")


def read(path):
    book = openpyxl.load_workbook(path)
    told = {}
    for sheet in book:
        rows = [[c.value for c in row] for row in sheet.iter_rows()]
        told[sheet.title] = {
            "rows": rows,
            "kinds": sorted({c.data_type for row in sheet.iter_rows() for c in row if c.value is not None}),
            "formats": sorted({c.number_format for row in sheet.iter_rows() for c in row}),
            "choices": [[str(v.sqref), v.formula1] for v in sheet.data_validations.dataValidation],
            "filter": sheet.auto_filter.ref,
            "frozen": sheet.freeze_panes,
        }
    print(json.dumps(told))


def edit(source, to, deeds):
    book = openpyxl.load_workbook(source)
    for deed in map(json.loads, deeds):
        what, of = deed[0], deed[1:]
        if what == "first":
            book.create_sheet("Our notes", 0)["A1"] = "As discussed"
        elif what == "sort":
            sheet = book[of[0]]
            rows = [[c.value for c in row] for row in sheet.iter_rows(min_row=2)]
            for n, row in enumerate(reversed(rows), 2):
                for m, value in enumerate(row, 1):
                    sheet.cell(n, m).value = value
        elif what == "set":
            name, reference, title, value, kind = of
            cell = find(book[name], reference, title)
            if kind == "number":
                cell.number_format, cell.value = "General", float(value)
            elif kind == "date":
                cell.value, cell.number_format = datetime.fromisoformat(value), "dd/mm/yyyy"
            else:
                cell.value = value
        elif what == "column":
            sheet = book[of[0]]
            sheet.delete_cols([c.value for c in sheet[1]].index(of[1]) + 1)
        elif what == "hide":
            for row in range(2, book[of[0]].max_row + 1):
                book[of[0]].row_dimensions[row].hidden = True
        elif what == "merge":
            book[of[0]].merge_cells("A2:B3")
        elif what == "blank":
            for row in range(book[of[0]].max_row + 1, int(of[1]) + 1):
                book[of[0]].cell(row, 1).number_format = "@"
    book.save(to)


if sys.argv[1] == "read":
    read(sys.argv[2])
else:
    edit(sys.argv[2], sys.argv[3], sys.argv[4:])
