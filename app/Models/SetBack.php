<?php

namespace App\Models;

/** Whether a target still holds what a lane wrote there, as far as its mark says. */
enum SetBack: int
{
    case No = 0;

    /** The lane's mark is gone: somebody set the target back to a state of before. */
    case Yes = 1;

    /** The mark is gone, and a lead had it looked for every record: they are there. */
    case ButThere = 2;
}
