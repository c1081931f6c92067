<?php

namespace Baggage\Core\Targets\Conditions;

/** How values of an operand are compared. */
enum Kind: string
{
    case Number = 'number';
    case Date = 'date';
    case Text = 'text';
}
