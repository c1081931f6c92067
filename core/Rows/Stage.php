<?php

namespace Baggage\Core\Rows;

/** Where in its life a row failed (DESIGN section 2). */
enum Stage: string
{
    case Reading = 'reading';
    case Scope = 'scope';
    case Mapping = 'mapping';
    case Checks = 'checks';
    case Parents = 'parents';
    case Matching = 'matching';
    case Writing = 'writing';
}
