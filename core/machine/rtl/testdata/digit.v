// full
// One digit that counts seconds.
module top(input clk, output [6:0] seg);
  reg [26:0] div = 0;
  reg [3:0] n = 0;
  always @(posedge clk)
    if (div == 27'd99_999_999) begin
      div <= 0;
      n <= n == 9 ? 0 : n + 1;
    end else
      div <= div + 1;
  function [6:0] segments(input [3:0] n);
    case (n)
      0: segments = 7'h3f; 1: segments = 7'h06; 2: segments = 7'h5b; 3: segments = 7'h4f; 4: segments = 7'h66;
      5: segments = 7'h6d; 6: segments = 7'h7d; 7: segments = 7'h07; 8: segments = 7'h7f; default: segments = 7'h6f;
    endcase
  endfunction
  assign seg = segments(n);
endmodule
