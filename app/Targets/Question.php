<?php

namespace App\Targets;

/** What a page asks of a target. */
enum Question: string
{
    /** Entities and other tables: Schema as an array, and the others. */
    case Schema = 'schema';

    /** Names of tables, and the marks of lanes if "marks" says so: what is asked before a round. */
    case Standing = 'standing';

    /** The schema, and the rights that are missing for "entities": what is asked before a pass. */
    case Ready = 'ready';

    /** The first records of "entity". */
    case Records = 'records';

    /** The record "key" of "entity", and how many refer to it, with the first of their keys: "children" has entity and field of each. */
    case Family = 'family';

    /** Runs "statements" that make tables. */
    case Make = 'make';
}
