<?php

namespace Baggage\Core\Writing\Workbook;

/** How a cell looks. All but numbers are formatted as text, so that what is typed into them stays as it is typed. */
enum CellStyle: int
{
    case Text = 1;
    case Head = 2;

    /** A column that was added. */
    case Added = 3;

    /** The cell that is wrong. */
    case Wrong = 4;

    case AddedHead = 5;
}
