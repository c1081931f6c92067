<?php

namespace App\Rejects;

/** Ways to repair rows that were left out. */
enum ProposedKind: string
{
    /** A value in a column of all rows of some causes, or of one row. */
    case Correct = 'correct';

    /** A row that has too few or too many cells, as it is to be. */
    case Row = 'row';

    /** A new value for old codes. */
    case Code = 'code';

    /** Another rule for the field. */
    case Rule = 'rule';

    /** A parent for those whose own is nowhere. */
    case Parent = 'parent';

    /** The row is a record the target has. */
    case Match = 'match';

    /** The rows stay behind. */
    case Stay = 'stay';

    /** What the client changed in a file, or answered on a page. */
    case Answers = 'answers';
}
