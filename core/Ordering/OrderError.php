<?php

namespace Baggage\Core\Ordering;

/** The references form a circle in which every one is required. */
final class OrderError extends \RuntimeException
{
}
