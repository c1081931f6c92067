<?php

namespace App\Models;

/** What a change of a list changes. */
enum ChangeKind: string
{
    case Rule = 'rule';
    case Code = 'code';
    case Column = 'column';
    case Target = 'target';
    case Plan = 'plan';
}
