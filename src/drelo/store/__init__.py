"""What is kept in MariaDB."""
