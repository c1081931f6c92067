<?php

namespace Baggage\Core\Targets\Conditions;

/** A value that only the target knows. */
final class CannotTell extends \RuntimeException
{
}
