<?php

namespace Baggage\Core\Reading\Workbook;

/** What is taken of a cell: a workbook keeps a number and, apart from it, the format a person sees it in. */
enum CellView: string
{
    /** Dates in ISO 8601, numbers with a decimal point and at most 15 significant digits, text as it is. */
    case Plain = 'plain';
    /** The text a person sees in the cell. */
    case Seen = 'seen';
    /** The number or text in the file: a date is its serial number. */
    case Stored = 'stored';
}
